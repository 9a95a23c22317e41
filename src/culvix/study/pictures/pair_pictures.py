"""The picture of a pair of columns, drawn in the window or in a file."""

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.display import coefficient, count
from culvix.stats.regression.straight_line import StraightLine, line_band
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.document.choices.picture_style import USUAL_STYLE, PictureStyle
from culvix.study.pictures.column_pictures import Marks
from culvix.study.pictures.thinning import few
from culvix.study.relations.pair_analysis import PairAnalysis
from culvix.study.relations.pair_forms import Cells, Level, PairForm, pair_form
from culvix.study.relations.pair_groups import PairGroup, PairGroups
from culvix.study.relations.pair_view import PairView

__all__ = [
    "MOST_GROUPS",
    "PARTS",
    "GroupMarks",
    "PairPicture",
    "group_styles",
    "pair_picture",
    "shown_groups",
    "with_selected",
]

_MOST_POINTS = 4000
_PLACES = 120
"""Places at which a band is drawn; between them it is straight."""

MOST_GROUPS = 6
"""So many groups can be told apart in one picture."""

PARTS = {
    "line": "line",
    "band": "band",
    "without": "without flagged",
    "smooth": "smooth",
    "density": "density",
}
"""What can be drawn over the points, and under them, by key, with the words for it."""

Band = tuple[Floats, Floats, Floats]
"""Where a band lies: along the axis, and its two edges; all of the same shape."""


@dataclass(frozen=True, eq=False)
class GroupMarks:
    """One of the groups shown, in the ``style`` (from 0) of its own, with its ``numbers`` in a few words."""

    name: str
    style: int
    marks: Marks
    y: Floats
    line: StraightLine | None
    numbers: str


@dataclass(frozen=True, eq=False)
class PairPicture:
    """The scatter of two columns with its fit line and marked rows.

    All are places on the scales of the two axes, ``x_scale`` and ``y_scale``, but the lines, which run through the
    values themselves: ``line`` through all rows, ``line_without`` without the flagged ones. ``corrected`` rows stand
    where they are now, ``corrected_from`` has where they were, NaN where they had no place. The ``band`` is that of
    ``line``. With ``groups`` the ``points`` are the rows of all others. ``cells`` have the number of all rows in each
    part of the picture.
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
    groups: tuple[GroupMarks, ...] = ()
    levels: tuple[Level, ...] = ()
    cells: Cells | None = None
    extent: tuple[tuple[float, float], tuple[float, float]] | None = None
    excluded: Marks = field(default_factory=lambda: Marks.plain(np.zeros(0)))
    excluded_y: Floats = field(default_factory=lambda: np.zeros(0))
    corrected: Marks = field(default_factory=lambda: Marks.plain(np.zeros(0)))
    corrected_y: Floats = field(default_factory=lambda: np.zeros(0))
    corrected_from: tuple[Floats, Floats] = field(default_factory=lambda: (np.zeros(0), np.zeros(0)))


def shown_groups(groups: PairGroups, chosen: Sequence[str] = ()) -> tuple[PairGroup, ...]:
    """The groups that stand out: the ``chosen`` ones, or the largest, as many as can be told apart."""
    return (groups.named(chosen) or groups.groups)[:MOST_GROUPS]


def group_styles(names: Sequence[str], chosen: Mapping[str, int]) -> dict[str, int]:
    """Which mark and colour (from 0) each of at most `MOST_GROUPS` groups has: the ``chosen`` one, or the next left."""
    styles: dict[str, int] = {}
    for name in names:
        wanted = chosen.get(name)
        if wanted is not None and 0 <= wanted < MOST_GROUPS and wanted not in styles.values():
            styles[name] = wanted
    left = (style for style in range(MOST_GROUPS) if style not in set(styles.values()))
    return {name: styles[name] if name in styles else next(left) for name in names}


def pair_picture(
    pair: PairAnalysis,
    selected: Ints,
    *,
    most: int = _MOST_POINTS,
    parts: Container[str] = ("line",),
    confidence: float = 0.95,
    form: PairForm | None = None,
    groups: Sequence[PairGroup] = (),
    styles: Mapping[str, int] | None = None,
    excluded: Ints | None = None,
    corrected: Ints | None = None,
) -> PairPicture:
    """Picture of ``pair`` with the ``selected`` rows (ascending), of each sort of mark at most ``most``.

    ``parts`` are keys of `PARTS`; the smooth curve is worked out here where it was not before. The band is one of the
    mean, at that ``confidence``. ``form`` is how the rows are looked at, by default as measured; ``groups`` stand out
    in their ``styles``, as `group_styles` has them. Rows with a value ``excluded`` (ascending) are marked where they
    were, those with one ``corrected`` where they were and are, in a picture of values.
    """
    form = form or pair_form(pair, "values")
    view, scales = form.view, form.scales
    marked = np.searchsorted(view.rows, view.flagged)
    plain = np.ones(view.rows.size, dtype=bool)
    plain[marked] = False
    for group in groups:
        plain[group.indices] = False
    rest = few(np.flatnonzero(plain), most)
    shown = few(np.arange(marked.size), most)
    flagged, flagged_y = _marks(form, marked[shown], pair.agreement[shown])
    points, y_values = _marks(form, rest)
    # Lines and their kin run through values as they are measured; groups have lines of their own.
    alone = not groups
    styles = group_styles([group.name for group in groups], styles or {})
    picture = PairPicture(
        _titled(form.titles[0], scales[0]),
        _titled(form.titles[1], scales[1]),
        points,
        y_values,
        flagged,
        flagged_y,
        *_marks(form, np.zeros(0, dtype=np.int64)),
        view.line if "line" in parts and alone else None,
        view.line_without if "without" in parts and alone and view.flagged.size and view.line else None,
        _band(view, scales, confidence) if "band" in parts and alone else None,
        _smooth(view, scales) if "smooth" in parts else None,
        scales[0],
        scales[1],
        groups=tuple(_group(form, group, styles[group.name], most, parts) for group in groups),
        levels=form.levels,
        cells=form.cells if "density" in parts else None,
        extent=form.extent,
    )
    if excluded is not None and form.key == "values":
        picture = _with_excluded(picture, pair, form, few(excluded, most))
    if corrected is not None and form.key == "values":
        picture = _with_corrected(picture, pair, form, few(corrected, most))
    return with_selected(picture, form, selected, most=most)


def _with_corrected(picture: PairPicture, pair: PairAnalysis, form: PairForm, rows: Ints) -> PairPicture:
    """``picture`` with ``rows`` where they are and where they were before a value of theirs was corrected."""
    indices = np.flatnonzero(np.isin(form.view.rows, rows))
    marks, y = _marks(form, indices)
    x_before, y_before = (
        on.positions(each.column.sample.values[marks.rows])
        for on, each in zip(form.scales, (pair.x, pair.y), strict=True)
    )
    return replace(picture, corrected=marks, corrected_y=y, corrected_from=(x_before, y_before))


def _with_excluded(picture: PairPicture, pair: PairAnalysis, form: PairForm, rows: Ints) -> PairPicture:
    """``picture`` with ``rows`` where both values stood before one was excluded."""
    x, y = (
        on.positions(each.column.sample.values[rows]) for on, each in zip(form.scales, (pair.x, pair.y), strict=True)
    )
    there = np.isfinite(x) & np.isfinite(y)
    marks = Marks(rows[there], x[there], np.zeros(int(there.sum()), dtype=np.int64))
    return replace(picture, excluded=marks, excluded_y=y[there])


def with_selected(picture: PairPicture, form: PairForm, selected: Ints, *, most: int = _MOST_POINTS) -> PairPicture:
    """The same ``picture``, of ``form``, with other ``selected`` rows (ascending)."""
    rows = form.view.rows
    if not rows.size or not selected.size:
        indices = np.zeros(0, dtype=np.int64)
    else:
        # Of many rows this is sooner told than by looking each of them up.
        chosen = np.zeros(max(int(rows[-1]), int(selected[-1])) + 1, dtype=bool)
        chosen[selected] = True
        indices = np.flatnonzero(chosen[rows])
    marks, y = _marks(form, few(indices, most))
    return replace(picture, selected=marks, selected_y=y)


def _marks(form: PairForm, indices: Ints, weights: Ints | None = None) -> tuple[Marks, Floats]:
    """Marks for the rows at ``indices``, with their heights."""
    view = form.view
    x, y = (on.positions(v[indices]) for on, v in zip(form.scales, (view.x_values, view.y_values), strict=True))
    return Marks(view.rows[indices], x, np.zeros(indices.size, dtype=np.int64) if weights is None else weights), y


def _group(form: PairForm, group: PairGroup, style: int, most: int, parts: Container[str]) -> GroupMarks:
    marks, y = _marks(form, few(group.indices, max(most // MOST_GROUPS, 1)))
    first = next(iter(group.coefficients.values()))
    numbers = f"{coefficient(first.r)}, n {count(group.n)}"
    measured = form.key == "values" and "line" in parts
    return GroupMarks(group.name, style, marks, y, group.line if measured else None, numbers)


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
