"""The picture of a pair of columns, drawn in the window or in a file."""

from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.analysis.pair_analysis import PairAnalysis
from culvix.study.document.picture_style import USUAL_STYLE, PictureStyle
from culvix.study.pictures.column_pictures import Marks
from culvix.study.pictures.thinning import few

__all__ = ["PairPicture", "pair_picture"]

_MOST_POINTS = 4000


@dataclass(frozen=True, eq=False)
class PairPicture:
    """The scatter of two columns with its fit line and marked rows.

    All are places on the scales of the two axes, ``x_scale`` and ``y_scale``; the ``line`` (intercept and slope) runs
    through the values themselves.
    """

    x_title: str
    y_title: str
    points: Marks
    y_values: Floats
    flagged: Marks
    flagged_y: Floats
    selected: Marks
    selected_y: Floats
    line: tuple[float, float] | None
    x_scale: AxisScale = MEASURED_AXIS
    y_scale: AxisScale = MEASURED_AXIS
    style_on_paper: PictureStyle = USUAL_STYLE


def pair_picture(pair: PairAnalysis, selected: Ints, *, most: int = _MOST_POINTS) -> PairPicture:
    """Picture of ``pair`` with the ``selected`` rows (ascending), of each sort of mark at most ``most``."""
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
        (view.line.intercept, view.line.slope) if view.line else None,
        scales[0],
        scales[1],
    )


def _titled(title: str, scale: AxisScale) -> str:
    return title if scale.is_measured else f"{title}, {scale.name} axis"
