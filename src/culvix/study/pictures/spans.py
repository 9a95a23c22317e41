"""What each outlier method accepts of a column, as the span lane draws it: one span a method, or one a group."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.display import count, p_value, plural, significant
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.registry import OUTLIER_METHODS
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.document.choices.settings import MEASURED
from culvix.study.pictures.thinning import distinct_positions

__all__ = ["MOST_FLAGGED", "Span", "groups_drawn", "spans_of", "test_text"]

MOST_FLAGGED = 300
"""Flagged values that are drawn for one method, at the most."""
_MOST_LINES = 12
"""Lines of groups that can be told apart, of all methods together."""


@dataclass(frozen=True, eq=False)
class Span:
    """The interval a method accepts and the values it flags; ``note`` says why there is none, or what to beware of.

    ``beyond`` is how many values lie below and above it, where that is what the method flags; ``work`` is how a method
    without a span came to its flags. ``movable`` spans follow from the method's limit, or are the declared range
    itself, so that their ends can be dragged; those of a ``group``, or found on another scale, are not.
    """

    key: str
    label: str
    lower: float | None
    upper: float | None
    flagged: Floats
    note: str | None
    beyond: tuple[int, int] | None = None
    work: str = ""
    group: str = ""
    movable: bool = False

    def accepts(self, value: float) -> bool:
        """Whether the method would leave ``value`` unflagged; True where it gives no span."""
        return self.lower is None or self.upper is None or self.lower <= value <= self.upper


def spans_of(analysis: ColumnPreview, axis: AxisScale = MEASURED_AXIS) -> tuple[Span, ...]:
    """The spans of all methods in force, in their order, in places on ``axis``; of many groups those that flag most."""
    spans: list[Span] = []
    shown = groups_drawn(analysis)
    measured = analysis.request.settings.of(analysis.column.name).flag_scale == MEASURED
    for key, result in analysis.flags.results.items():
        method = OUTLIER_METHODS[key]
        if result.groups:
            spans += _of_groups(analysis.flag_basis, key, result, shown, axis)
            continue
        drags = (method.anchor is not None and measured) or method.follows_range
        movable = result.lower is not None and drags
        spans.append(_span(analysis.flag_basis, key, method.short, result, axis, movable=movable))
    return tuple(spans)


def groups_drawn(analysis: ColumnPreview) -> frozenset[str]:
    """The groups that have spans of their own in the picture: those with most flagged values, where there are many."""
    grouped = [result for result in analysis.flags.results.values() if result.groups]
    if not grouped:
        return frozenset()
    flagged = {name: sum(result.groups[name].rows.size for result in grouped) for name in grouped[0].groups}
    room = max(_MOST_LINES // len(grouped), 2)
    return frozenset(sorted(flagged, key=lambda name: -flagged[name])[:room])


def _of_groups(
    sample: Sample, key: str, result: OutlierResult, shown: frozenset[str], axis: AxisScale
) -> Iterator[Span]:
    """A span for each group that is ``shown``, in their order; a method without spans has one line for all of them."""
    short = OUTLIER_METHODS[key].short
    if all(found.lower is None for found in result.groups.values()):
        values = sample.values[result.rows]
        flagging = sum(bool(found.rows.size) for found in result.groups.values())
        text = f"flags {plural(int(result.rows.size), 'value')} "
        text += f"in {count(flagging)} of {plural(len(result.groups), 'group')}"
        flagged = distinct_positions(_places(values, axis), MOST_FLAGGED)
        yield Span(key, short, None, None, flagged, result.note, work=text)
        return
    for name, found in result.groups.items():
        if name in shown:
            yield _span(sample, key, f"{short} {name}", found, axis, group=name)


def _places(values: Floats, axis: AxisScale) -> Floats:
    """Where ascending ``values`` stand on ``axis``, without those that have no place there."""
    positions = axis.positions(values)
    return positions if axis.is_measured else positions[np.isfinite(positions)]


def _span(
    sample: Sample,
    key: str,
    label: str,
    result: OutlierResult,
    axis: AxisScale,
    *,
    group: str = "",
    movable: bool = False,
) -> Span:
    values = sample.values[result.rows]
    flagged, note = distinct_positions(_places(values, axis), MOST_FLAGGED), result.note
    if result.lower is None or result.upper is None:
        work = test_text(result, sample) if result.applies else ""
        return Span(key, label, None, None, flagged, note, work=work, group=group)
    below = int(np.count_nonzero(values < result.lower))
    sides = (below, int(values.size) - below)
    ends = axis.position(result.lower), axis.position(result.upper)
    return Span(key, label, *ends, flagged, note, sides, group=group, movable=movable)


def test_text(result: OutlierResult, sample: Sample) -> str:
    """How a test came to its outcome: statistic, critical value, p, and how many values it flags at each end."""
    statistic, critical, p = (result.settings.get(key) for key in ("statistic", "critical", "p"))
    parts = []
    if isinstance(statistic, float) and isinstance(critical, float):
        parts.append(f"{result.score_name} {significant(statistic)}, critical {significant(critical)}")
    if isinstance(p, float):
        parts.append(p_value(p))
    low = int(np.count_nonzero(sample.values[result.rows] < sample.median)) if result.rows.size else 0
    return f"{', '.join(parts)}: {count(low)} below, {count(int(result.rows.size) - low)} above"
