"""What the picture of compared groups is drawn from: values, quartiles and mean of each, and differences of pairs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from math import isfinite, nan

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.display import NumberStyle, count, number, p_value, signed
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.groups.comparison.comparison import GroupComparison
from culvix.study.groups.comparison.effect_words import EFFECTS
from culvix.study.groups.value_groups import ValueGroup
from culvix.study.pictures.thinning import representative

__all__ = ["DifferenceRow", "DifferencesPicture", "GroupRow", "GroupsPicture", "differences_picture", "groups_picture"]

_FEW_VALUES = 12
"""Up to so many different values are shown by how frequent each is."""
_FAR = 4.0
"""How many times the width of the middle half an axis reaches beyond it at the most."""
_MOST_VALUES = 240
"""So many values of a group are drawn at the most."""


@dataclass(frozen=True, eq=False)
class GroupRow:
    """One group in places on the axis: some of its ``values``, its ``quartiles``, and its ``mean`` with the interval.

    ``words`` are its size and centre; where all groups have few different values, ``bars`` are these with their shares
    of the group instead. ``beyond`` counts the values below and above the part of the axis shown.
    """

    name: str
    words: str
    n: int
    values: Floats
    quartiles: tuple[float, float, float]
    mean: float
    interval: tuple[float, float] | None
    beyond: tuple[int, int] = (0, 0)
    bars: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, eq=False)
class GroupsPicture:
    """Groups of ``title`` on one axis ``scale``, of which the part ``extent`` is shown, in places on it.

    Values so far out that all others would be squeezed are left to the counts at the edges.
    """

    title: str
    scale: AxisScale
    rows: tuple[GroupRow, ...]
    extent: tuple[float, float]
    sentence: str
    ticks: Mapping[float, str] = field(default_factory=dict)
    """Where numbers stand at the axis; nothing for the usual places."""


@dataclass(frozen=True)
class DifferenceRow:
    """How much ``first`` lies above ``second``, with the interval that holds in ``words``; ``p`` in its own words."""

    first: str
    second: str
    value: float
    interval: tuple[float, float] | None
    words: str
    differs: bool
    p: str = ""


@dataclass(frozen=True)
class DifferencesPicture:
    """Differences of pairs of groups, the largest first; ``title`` says of what, ``held`` how intervals hold."""

    title: str
    held: str
    rows: tuple[DifferenceRow, ...]


def groups_picture(
    groups: Sequence[ValueGroup],
    title: str,
    style: NumberStyle,
    scale: AxisScale = MEASURED_AXIS,
    words: Mapping[float, str] | None = None,
) -> GroupsPicture:
    """The picture of ``groups``, none of which is empty, in the order they have; ``words`` are those of codes."""
    low, high = _extent(groups, scale)
    few = _few_values(groups)
    if few:
        # Codes have room on both sides for their bars.
        reach = 0.5 * min((b - a for a, b in pairwise(few)), default=1.0)
        low, high = few[0] - reach, few[-1] + reach
    rows = [_row(group, style, scale, (low, high)) for group in groups]
    if few:
        rows = [replace(row, bars=_bars(group), values=row.values[:0]) for row, group in zip(rows, groups, strict=True)]
    ticks = {value: (words or {}).get(value) or style.value(value) for value in few} if scale.is_measured else {}
    sentence = f"{len(rows)} groups of {title}: " + "; ".join(f"{row.name} {row.words}" for row in rows[:20])
    return GroupsPicture(title, scale, tuple(rows), (low, high), sentence, ticks)


def _few_values(groups: Sequence[ValueGroup]) -> list[float]:
    """The values of all groups, ascending, where there are few; nothing where there are more."""
    found: set[float] = set()
    for group in groups:
        values = group.sample.runs[0]
        if values.size > _FEW_VALUES:
            return []
        found |= set(values.tolist())
    return sorted(found) if len(found) <= _FEW_VALUES else []


def _bars(group: ValueGroup) -> tuple[tuple[float, float], ...]:
    values, counts = group.sample.runs
    return tuple(zip(values.tolist(), (counts / group.sample.n).tolist(), strict=True))


def _extent(groups: Sequence[ValueGroup], scale: AxisScale) -> tuple[float, float]:
    """The part of the axis on which the groups lie, but for values far beyond the middle half of all of them."""
    ends = np.concatenate([scale.positions(group.sample.sorted[[0, -1]]) for group in groups])
    ends = ends[np.isfinite(ends)]
    quarters = [scale.position(float(q)) for g in groups for q in (g.description.q1, g.description.q3) if q is not None]
    quarters = [position for position in quarters if isfinite(position)]
    if not ends.size or not quarters:
        return 0.0, 1.0
    low, high = min(quarters), max(quarters)
    reach = _FAR * (high - low)
    if not reach:
        return float(ends.min()), float(ends.max())
    return max(float(ends.min()), low - reach), min(float(ends.max()), high + reach)


def _row(group: ValueGroup, style: NumberStyle, scale: AxisScale, extent: tuple[float, float]) -> GroupRow:
    found, x = group.description, group.sample.sorted
    placed = scale.positions(x)
    beyond = int(np.count_nonzero(placed < extent[0])), int(np.count_nonzero(placed > extent[1]))
    inside = placed[(placed >= extent[0]) & (placed <= extent[1])]
    shown = inside[representative(inside, _MOST_VALUES)]
    low, median, high, mean = (
        nan if value is None else scale.position(float(value))
        for value in (found.q1, found.median, found.q3, found.mean)
    )
    ends = None if found.ci_mean is None else [scale.position(float(end)) for end in found.ci_mean]
    numbers = f"median {style.statistic(found.median)}  mean {style.statistic(found.mean)}"
    return GroupRow(
        group.name,
        f"n {count(group.sample.n)}  {numbers}",
        group.sample.n,
        shown,
        (low, median, high),
        mean,
        None if ends is None or not all(map(isfinite, ends)) else (ends[0], ends[1]),
        beyond,
    )


def differences_picture(compared: GroupComparison, style: NumberStyle) -> DifferencesPicture | None:
    """Differences of the groups two by two; None where none can be drawn: of too many groups, or in ranks."""
    per_cent = f"{100 * compared.confidence:g} %"
    if len(compared.samples) == 2:
        effect = compared.effects[0]
        if effect.value is None:
            return None
        one, other = compared.names
        row = _difference(one, other, effect.value, effect.low, effect.high, compared.result.p, compared.alpha, style)
        return DifferencesPicture(EFFECTS[effect.key].name, f"{per_cent} interval", (row,))
    names, in_ranks = compared.names, compared.compares == "ranks"
    rows = [
        _difference(names[e.first], names[e.second], e.difference, e.low, e.high, e.p, compared.alpha, style)
        for e in compared.follow_ups
    ]
    if not rows:
        return None
    rows.sort(key=lambda row: -abs(row.value))
    if in_ranks:
        return DifferencesPicture("difference of mean ranks", "p adjusted for all pairs (Dunn, Holm)", tuple(rows))
    return DifferencesPicture(
        "difference of means", f"intervals hold all pairs at once in {per_cent} by Games and Howell", tuple(rows)
    )


def _difference(
    first: str,
    second: str,
    value: float,
    low: float | None,
    high: float | None,
    p: float | None,
    alpha: float,
    style: NumberStyle,
) -> DifferenceRow:
    """A row in which the first group lies higher."""
    interval = None if low is None or high is None or not (isfinite(low) and isfinite(high)) else (low, high)
    if value < 0:
        first, second, value = second, first, -value
        interval = None if interval is None else (-interval[1], -interval[0])
    decimals = style.statistic_decimals
    words, p_words = signed(value, decimals), p_value(p) if p is not None else ""
    if interval is not None:
        words += f" ({number(interval[0], decimals)} to {number(interval[1], decimals)})"
    elif p_words:
        words += f", {p_words}"
    return DifferenceRow(first, second, value, interval, words, p is not None and p < alpha, p_words)
