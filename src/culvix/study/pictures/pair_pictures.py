"""The picture of a pair of columns, drawn in the window or in a file."""

from collections.abc import Container
from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.regression.straight_line import StraightLine, line_band
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.document.picture_style import USUAL_STYLE, PictureStyle
from culvix.study.pictures.column_pictures import Marks
from culvix.study.pictures.thinning import few
from culvix.study.relations.pair_analysis import PairAnalysis
from culvix.study.relations.pair_view import PairView

__all__ = ["PARTS", "PairPicture", "pair_picture"]

_MOST_POINTS = 4000
_PLACES = 120
"""Places at which a band is drawn; between them it is straight."""

PARTS = {
    "line": "line",
    "band": "band",
    "without": "without flagged",
    "smooth": "smooth",
}
"""What can be drawn over the points, by key, with the words for it."""

Band = tuple[Floats, Floats, Floats]
"""Where a band lies: along the axis, and its two edges; all of the same shape."""


@dataclass(frozen=True, eq=False)
class PairPicture:
    """The scatter of two columns with its fit line and marked rows.

    All are places on the scales of the two axes, ``x_scale`` and ``y_scale``, but the lines, which run through the
    values themselves: ``line`` through all rows, ``line_without`` without the flagged ones. The ``band`` is that of
    ``line``.
    """

    x_title: str
    y_title: str
    points: Marks
    y_values: Floats
    flagged: Marks
    flagged_y: Floats
    selected: Marks
    selected_y: Floats
    line: StraightLine | None
    line_without: StraightLine | None = None
    band: Band | None = None
    smooth: tuple[Floats, Floats] | None = None
    x_scale: AxisScale = MEASURED_AXIS
    y_scale: AxisScale = MEASURED_AXIS
    style_on_paper: PictureStyle = USUAL_STYLE


def pair_picture(
    pair: PairAnalysis,
    selected: Ints,
    *,
    most: int = _MOST_POINTS,
    parts: Container[str] = ("line",),
    confidence: float = 0.95,
) -> PairPicture:
    """Picture of ``pair`` with the ``selected`` rows (ascending), of each sort of mark at most ``most``.

    ``parts`` are keys of `PARTS`; the smooth curve is worked out here where it was not before. The band is one of the
    mean, at that ``confidence``.
    """
    view, agreement = pair.view, pair.agreement
    at = np.searchsorted(view.rows, selected)
    at, known = at[at < view.rows.size], selected[at < view.rows.size]
    chosen = few(at[view.rows[at] == known], most)
    marked = np.searchsorted(view.rows, view.flagged)
    unmarked = np.ones(view.rows.size, dtype=bool)
    unmarked[marked] = False
    plain = few(np.flatnonzero(unmarked), most)
    shown = few(np.arange(marked.size), most)
    marked, agreement = marked[shown], agreement[shown]
    scales = pair.x.axis.scale, pair.y.axis.scale
    x_values, y_values = (on.positions(v) for on, v in zip(scales, (view.x_values, view.y_values), strict=True))
    zeros = np.zeros(plain.size, dtype=np.int64)
    return PairPicture(
        _titled(pair.titles[0], scales[0]),
        _titled(pair.titles[1], scales[1]),
        Marks(view.rows[plain], x_values[plain], zeros),
        y_values[plain],
        Marks(view.rows[marked], x_values[marked], agreement),
        y_values[marked],
        Marks(view.rows[chosen], x_values[chosen], np.zeros(chosen.size, dtype=np.int64)),
        y_values[chosen],
        view.line if "line" in parts else None,
        view.line_without if "without" in parts and view.flagged.size else None,
        _band(view, scales, confidence) if "band" in parts else None,
        _smooth(view, scales) if "smooth" in parts else None,
        scales[0],
        scales[1],
    )


def _band(view: PairView, scales: tuple[AxisScale, AxisScale], confidence: float) -> Band | None:
    if view.line is None or not view.rows.size:
        return None
    ends = scales[0].positions(np.array([view.x_values.min(), view.x_values.max()]))
    across = np.linspace(ends[0], ends[1], _PLACES)
    edges = line_band(view.line, scales[0].values_at(across), confidence)
    if edges is None:
        return None
    low, high = (scales[1].positions(edge) for edge in edges)
    seen = np.isfinite(low) & np.isfinite(high)
    return across[seen], low[seen], high[seen]


def _smooth(view: PairView, scales: tuple[AxisScale, AxisScale]) -> tuple[Floats, Floats] | None:
    if view.smooth is None:
        return None
    x, y = scales[0].positions(view.smooth.x), scales[1].positions(view.smooth.y)
    seen = np.isfinite(x) & np.isfinite(y)
    return x[seen], y[seen]


def _titled(title: str, scale: AxisScale) -> str:
    return title if scale.is_measured else f"{title}, {scale.name} axis"
