"""Columns or groups as strips on one axis: bars, box and flagged values in the units of that axis."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale, on_axis
from culvix.stats.shape.density import density, usual_rule
from culvix.stats.shape.histogram import histogram
from culvix.study.analysis.axis_parts import AxisParts
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.pictures.column_pictures import measured_parts
from culvix.study.pictures.groups.group_forms import GroupForm
from culvix.study.pictures.groups.groups import Group, Split
from culvix.tables.model.table import Role

__all__ = ["AXES", "ComparisonRow", "comparison_rows", "shared_scale", "split_rows"]

_MOST_FAR = 400
_CURVE_POINTS = 1000
_NONE = np.zeros(0)

Line = tuple[Floats, Floats]
"""x in the units of the axis, and y."""


@dataclass(frozen=True, eq=False)
class ComparisonRow:
    """One column or group on the shared axis: bars, box and flagged values in the units of that axis.

    ``heights`` of the bars lie between 0 and 1, and so do those of all else: the ``ghost``, an outline over the strip,
    the ``curve``, which may be ``filled``, the ``points``, and where those of a ``normal`` would lie. There is no
    ``box`` where there are no values. ``text`` stand at the strip's end.
    """

    name: str
    edges: Floats
    heights: Floats
    box: tuple[float, float, float, float, float] | None
    far: Floats
    text: str = ""
    ghost: Line | None = None
    curve: Line | None = None
    filled: bool = False
    points: Line = (_NONE, _NONE)
    normal: Line | None = None


AXES: dict[str, str] = {
    "standardised": "in SDs from each mean",
    "common": "on a common axis",
    "own": "each from its lowest to its highest",
}
"""How several columns are put on one axis."""


def shared_scale(analyses: Sequence[ColumnAnalysis], wanted: AxisScale) -> AxisScale:
    """The scale ``wanted`` for a common axis, or the measured one where it has no place for some value of a column."""
    ends = np.concatenate([_NONE, *(analysis.sample.sorted[[0, -1]] for analysis in analyses if analysis.sample.n)])
    return wanted if bool(np.isfinite(wanted.positions(ends)).all()) else MEASURED_AXIS


def _on_scale(analysis: ColumnAnalysis, scale: AxisScale) -> AxisParts:
    """What is pictured of a column on a common axis of ``scale``."""
    if scale.is_measured:
        return measured_parts(analysis)
    if analysis.axis.scale.key == scale.key:
        return analysis.axis
    sample, settings = on_axis(analysis.sample, scale), analysis.request.settings
    bars = histogram(sample, settings.of(analysis.column.name).bin_rule, closed=settings.closed)
    return AxisParts(scale, sample, bars, density(sample, usual_rule(sample)), None, analysis.style)


def comparison_rows(
    analyses: Sequence[ColumnAnalysis], axis: str, scale: AxisScale = MEASURED_AXIS
) -> list[ComparisonRow]:
    """Strips of the columns that have a range, on one of `AXES`; a common one has the ``scale``."""
    rows = []
    for analysis in analyses:
        parts = _on_scale(analysis, scale if axis == "common" else MEASURED_AXIS)
        bars, d, x, on = parts.histogram, analysis.description, analysis.sample.sorted, parts.scale
        if bars is None or d.q1 is None or d.median is None or d.q3 is None or d.mean is None:
            continue
        centre, unit = _axis_of(analysis, axis)
        if not unit > 0:
            continue
        box = tuple((on.position(value) - centre) / unit for value in box_of(x, d.q1, d.median, d.q3))
        style = analysis.style
        text = f"{style.value(float(x[0]))} to {style.value(float(x[-1]))}" if axis == "own" else ""
        flagged = np.unique(on.positions(analysis.sample.values[analysis.flags.rows]))
        far = flagged[np.isfinite(flagged)][:: max(flagged.size // _MOST_FAR, 1)]
        # Bars of unequal width show as many values by their area.
        density = bars.counts / np.diff(bars.edges)
        # All values may lie beyond the bars, which then are as low as they come.
        peak = float(density.max(initial=0.0)) or 1.0
        rows.append(
            ComparisonRow(
                analysis.column.name,
                (bars.edges - centre) / unit,
                density / peak,
                box,  # type: ignore[arg-type]
                (far - centre) / unit,
                text,
                curve=_curve(analysis, parts, centre, unit),
            )
        )
    return rows


def _curve(analysis: ColumnAnalysis, parts: AxisParts, centre: float, unit: float) -> Line | None:
    """The density of a column of measurements on the shared axis, with no more points than can be seen."""
    found = parts.density
    if found is None or analysis.column.role in (Role.ORDERED, Role.YES_NO) or not found.y.size:
        return None
    step = max(found.x.size // _CURVE_POINTS, 1)
    return (found.x[::step] - centre) / unit, found.y[::step] / float(found.y.max())


def _axis_of(analysis: ColumnAnalysis, axis: str) -> tuple[float, float]:
    """Where the column's own numbers have 0 and 1 on the shared axis: what is taken off them, and what divides."""
    d, x = analysis.description, analysis.sample.sorted
    if axis == "standardised":
        return d.mean or 0.0, d.sd or 0.0
    return (float(x[0]), float(x[-1] - x[0])) if axis == "own" else (0.0, 1.0)


def box_of(x: Floats, q1: float, median: float, q3: float) -> tuple[float, float, float, float, float]:
    """Ends of the whiskers, quartiles and median; whiskers reach the farthest of the ascending ``x`` within 1.5 IQR."""
    fence = 1.5 * (q3 - q1)
    inner = x[np.searchsorted(x, q1 - fence, side="left") : np.searchsorted(x, q3 + fence, side="right")]
    ends = (float(inner[0]), float(inner[-1])) if inner.size else (q1, q3)
    return ends[0], q1, median, q3, ends[1]


def split_rows(split: Split, ghosts: Mapping[str, Floats], text: Mapping[str, str]) -> list[ComparisonRow]:
    """A strip a group of ``split``, all in one scale; ``ghosts`` are heights of its form, by the group's name."""
    form, rows, level = split.form, [], _levels(split)
    for group in split.groups:
        d, ghost = group.description, ghosts.get(group.name)
        box = None
        if d.q1 is not None and d.median is not None and d.q3 is not None:
            ends = box_of(group.sample.sorted, d.q1, d.median, d.q3)
            box = tuple(map(form.scale.position, ends))
        bars, (x, y) = form.key == "bars", form.outline(group.heights)
        curve = None if bars or form.key == "qq" or not x.size else (x, level(y))
        rows.append(
            ComparisonRow(
                f"{group.name or '(blank)'}",
                form.bars.edges,
                level(group.heights) if bars else _NONE,
                box,  # type: ignore[arg-type]
                group.far[:: max(group.far.size // _MOST_FAR, 1)],
                text.get(group.name, ""),
                _outlined(form, ghost, level),
                curve,
                form.key == "density",
                (group.points[0], level(group.points[1])),
                _normal_line(group, form.scale, level) if form.key == "qq" else None,
            )
        )
    return rows


def _outlined(form: GroupForm, ghost: Floats | None, level: Callable[[Floats], Floats]) -> Line | None:
    """The line through the heights of a ``ghost``."""
    if ghost is None or not ghost.size:
        return None
    x, y = form.outline(ghost)
    return x, level(y)


def _normal_line(group: Group, scale: AxisScale, level: Callable[[Floats], Floats]) -> Line | None:
    """Where the points of a Q-Q would lie, were the group normal on ``scale`` with its mean and SD there."""
    centre = on_axis(group.sample, scale).moments
    if centre is None or not centre.sd or not group.points[1].size:
        return None
    ends = np.array([group.points[1].min(), group.points[1].max()])
    return centre.mean + centre.sd * ends, level(ends)


def _levels(split: Split) -> Callable[[Floats], Floats]:
    """What brings heights of the form of ``split`` to between 0 and 1, the same for all groups.

    Those of a group that is too small to set the scale are cut off, and so is a ghost that is higher than all groups.
    """
    if split.form.key in ("qq", "dots"):
        # Around the middle; both ends of normal quantiles stand equally far from it.
        reach = max((float(np.abs(group.points[1]).max(initial=0.0)) for group in split.groups), default=0.0) or 1.0
        return lambda y: np.clip(0.5 + 0.5 * y / reach, 0.0, 1.0)
    if split.form.key == "cumulative":
        return lambda y: y
    highest = max((float(group.heights.max(initial=0.0)) for group in split.measured), default=0.0) or 1.0
    return lambda y: np.minimum(y / highest, 1.0)
