"""What a column by groups is drawn from where many columns share a picture: quartiles and means, on its own axis."""

from dataclasses import dataclass
from math import isfinite

from culvix.stats.display import count
from culvix.stats.groups.result import Effect
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.groups.comparison.compared_column import ComparedColumn
from culvix.study.groups.comparison.effect_words import EFFECTS, effect_words
from culvix.study.groups.value_groups import ValueGroup

__all__ = ["SmallGroup", "SmallRow", "small_row"]


@dataclass(frozen=True)
class SmallGroup:
    """One group, in places from 0 to 1: its ``quartiles``, and its ``mean`` with the interval; ``words`` are these.

    Of yes and no there are no quartiles.
    """

    name: str
    words: str
    quartiles: tuple[float, float, float] | None
    mean: float
    interval: tuple[float, float] | None


@dataclass(frozen=True)
class SmallRow:
    """A column with its ``groups``; ``ends`` say which values stand at 0 and at 1.

    ``effect`` is the size of the difference with its interval.
    """

    name: str
    title: str
    groups: tuple[SmallGroup, ...] = ()
    ends: tuple[str, str] = ("", "")
    effect: str = ""


def small_row(compared: ComparedColumn, effect: Effect | None = None, scale: AxisScale = MEASURED_AXIS) -> SmallRow:
    """The row of ``compared`` on ``scale``, with the size of the difference that is to be read."""
    words = ""
    if effect is not None:
        value, interval = effect_words(effect, compared.style)
        words = f"{EFFECTS[effect.key].name} {value}{f' ({interval})' if interval else ''}"
    yes_no = all(set(group.sample.runs[0].tolist()) <= {0.0, 1.0} for group in compared.groups)
    parts = [part for group in compared.groups for part in _parts(group)[3 if yes_no else 0 :]]
    drawn = sorted((scale.position(part), part) for part in parts if isfinite(scale.position(part)))
    title = compared.title if scale.is_measured else f"{compared.title}, {scale.name} axis"
    if not drawn:
        return SmallRow(compared.measure, title, effect=words)
    (first, lowest), (last, highest) = drawn[0], drawn[-1]

    def at(value: float) -> float:
        # Equal groups stand in the middle.
        return (scale.position(value) - first) / (last - first) if last > first else 0.5

    def group(found: ValueGroup) -> SmallGroup:
        d, style = found.description, compared.style
        assert d.q1 is not None and d.median is not None and d.q3 is not None and d.mean is not None
        summary = f"n {count(found.sample.n)}, median {style.statistic(d.median)}, mean {style.statistic(d.mean)}"
        ends = None if d.ci_mean is None else (at(d.ci_mean[0]), at(d.ci_mean[1]))
        quartiles = None if yes_no else (at(d.q1), at(d.median), at(d.q3))
        return SmallGroup(
            found.name, summary, quartiles, at(d.mean), ends if ends and all(map(isfinite, ends)) else None
        )

    there = [found for found in compared.groups if all(isfinite(scale.position(part)) for part in _parts(found)[:4])]
    shown = compared.style.statistic
    return SmallRow(compared.measure, title, tuple(map(group, there)), (shown(lowest), shown(highest)), words)


def _parts(group: ValueGroup) -> tuple[float, ...]:
    """All values of a group that are drawn."""
    d = group.description
    ends = () if d.ci_mean is None else d.ci_mean
    return tuple(float("nan") if value is None else float(value) for value in (d.q1, d.median, d.q3, d.mean, *ends))
