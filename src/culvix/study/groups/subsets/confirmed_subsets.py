"""What the search for subsets found, looked at again on the rows it has not seen, in sentences."""

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.association.contingency_tests import chi_square
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.display import NumberStyle, count, number, p_value, per_cent, signed
from culvix.stats.groups.kolmogorov_smirnov import kolmogorov_smirnov
from culvix.stats.groups.mann_whitney import cliff_delta
from culvix.stats.resampling.multiple_testing import holm
from culvix.study.groups.attributes import Attribute, Condition, within
from culvix.study.groups.subsets.subset_search import (
    FoundSubset,
    SearchResult,
    search_subsets,
    target_of_levels,
    target_of_values,
)

__all__ = ["ConfirmedSubset", "Half", "SubsetSearch", "subsets_of_levels", "subsets_of_values"]

_SLIGHT = 0.1
"""Below this Cliff δ a subset does not lie higher or lower in a way worth telling."""
_WIDER = 1.25


@dataclass(frozen=True)
class Half:
    """A subset against the rest in one half of the rows: ``n`` and ``rest``, the size of the difference, and ``p``.

    ``effect`` is Cliff δ with its interval, or of a category the share of its ``level`` less that of the rest.
    """

    n: int
    rest: int
    effect: float | None
    low: float | None
    high: float | None
    p: float | None


@dataclass(frozen=True, eq=False)
class ConfirmedSubset:
    """A subset by its ``conditions`` with all its ``rows`` (ascending) that have a value, and a ``sentence`` about it.

    ``adjusted`` is p on the other half, adjusted over all subsets found (Holm); it is ``confirmed`` at the level of the
    search.
    """

    conditions: tuple[Condition, ...]
    sentence: str
    rows: Ints
    found: FoundSubset
    searched: Half
    other: Half
    adjusted: float | None
    confirmed: bool

    @property
    def name(self) -> str:
        """Its conditions in words."""
        return " and ".join(condition.words for condition in self.conditions)

    @property
    def figures(self) -> str:
        """The difference in the search and on the other half, side by side."""
        other = p_value(self.adjusted) if self.adjusted is not None else "no p"
        return f"in the search {_half(self.searched)}; on the other half {_half(self.other)}, {other}"


@dataclass(frozen=True, eq=False)
class SubsetSearch:
    """All that was found for ``target``: ``subsets``, the confirmed ones first, among ``tried``; ``unit`` of effects.

    At least ``least`` rows of the half that is searched make a subset.
    """

    target: str
    effect: str
    subsets: tuple[ConfirmedSubset, ...]
    tried: int
    searched: int
    other: int
    least: int
    level: float

    @property
    def about(self) -> str:
        """What was done, in a sentence."""
        confirmed = sum(subset.confirmed for subset in self.subsets)
        return (
            f"{count(self.tried)} subsets of at least {count(self.least)} rows tried on a seeded half "
            f"({count(self.searched)} rows), p adjusted over all of them (Benjamini–Yekutieli); "
            f"{len(self.subsets)} found, {confirmed} confirmed on the other half ({count(self.other)} rows, "
            f"Holm, {100 * self.level:g} %)"
        )


def subsets_of_values(
    name: str,
    values: Floats,
    style: NumberStyle,
    attributes: Sequence[Attribute],
    *,
    conditions: int = 3,
    level: float = 0.05,
    seed: int = 1,
    progress: Progress = silent,
) -> SubsetSearch:
    """Search for subsets in which the ``values`` (shape ``(rows,)``, NaN for none) of ``name`` are others."""
    target = target_of_values(values)
    found = search_subsets(target, attributes, conditions=conditions, level=level, seed=seed, progress=progress)
    return _confirmed(_Values(name, np.isfinite(values), values, style), found, attributes, level)


def subsets_of_levels(
    name: str,
    codes: Ints,
    levels: Sequence[str],
    attributes: Sequence[Attribute],
    *,
    conditions: int = 3,
    level: float = 0.05,
    seed: int = 1,
    progress: Progress = silent,
) -> SubsetSearch:
    """Search for subsets in which the ``levels`` of the category ``name`` (``codes``, −1 for none) are others."""
    target = target_of_levels(codes, len(levels))
    found = search_subsets(target, attributes, conditions=conditions, level=level, seed=seed, progress=progress)
    return _confirmed(_Levels(name, codes >= 0, codes, tuple(levels)), found, attributes, level)


@dataclass(frozen=True, eq=False)
class _Aim(ABC):
    """The column ``name`` in which subsets differ; ``there`` marks the rows that have it."""

    name: str
    there: Bools

    effect: ClassVar[str]

    @abstractmethod
    def look(self, inside: Bools, half: Bools) -> Half:
        """A subset against the rest in a half of the rows."""

    @abstractmethod
    def tell(self, inside: Bools, conditions: str) -> str:
        """How a subset differs from the rest, in all rows."""


@dataclass(frozen=True, eq=False)
class _Values(_Aim):
    values: Floats
    style: NumberStyle

    effect = "Cliff δ"

    def _parts(self, inside: Bools, half: Bools) -> tuple[Sample, Sample]:
        one, rest = (self.values[mask & half & self.there] for mask in (inside, ~inside))
        return Sample.of(one), Sample.of(rest)

    def look(self, inside: Bools, half: Bools) -> Half:
        one, rest = self._parts(inside, half)
        effect = cliff_delta(one, rest)
        return Half(one.n, rest.n, effect.value, effect.low, effect.high, kolmogorov_smirnov(one, rest).p)

    def tell(self, inside: Bools, conditions: str) -> str:
        return f"{self.name} {_differs(*self._parts(inside, self.there), self.style)} where {conditions}"


@dataclass(frozen=True, eq=False)
class _Levels(_Aim):
    codes: Ints
    levels: tuple[str, ...]

    effect = "difference of shares"

    def _counts(self, inside: Bools, half: Bools) -> Ints:
        """Rows by level in the subset and in the rest, shape ``(2, levels)``."""
        parts = (self.codes[mask & half & self.there] for mask in (inside, ~inside))
        return np.array([np.bincount(part, minlength=len(self.levels)) for part in parts], dtype=np.int64)

    def _farthest(self, inside: Bools) -> tuple[int, Floats]:
        """The level whose share differs most, with both shares."""
        counts = self._counts(inside, self.there)
        shares = counts / np.maximum(counts.sum(axis=1, keepdims=True), 1)
        at = int(np.argmax(np.abs(shares[0] - shares[1])))
        return at, shares[:, at]

    def look(self, inside: Bools, half: Bools) -> Half:
        counts, at = self._counts(inside, half), self._farthest(inside)[0]
        n, m = (int(each) for each in counts.sum(axis=1))
        if not n or not m:
            return Half(n, m, None, None, None, None)
        gap = float(counts[0, at] / n - counts[1, at] / m)
        return Half(n, m, gap, None, None, chi_square(counts).p)

    def tell(self, inside: Bools, conditions: str) -> str:
        at, shares = self._farthest(inside)
        more = "more" if shares[0] > shares[1] else "less"
        words = " against ".join(per_cent(float(share)) for share in shares)
        return f"{self.name} is {more} often {self.levels[at]} ({words}) where {conditions}"


def _confirmed(aim: _Aim, result: SearchResult, attributes: Sequence[Attribute], level: float) -> SubsetSearch:
    masks = [within(attributes, found.conditions) for found in result.found]
    others = [aim.look(mask, ~result.searched) for mask in masks]
    tested = [at for at, half in enumerate(others) if half.p is not None]
    adjusted = holm(np.array([others[at].p for at in tested], dtype=np.float64)).tolist()
    by_place = dict(zip(tested, adjusted, strict=True))
    subsets = []
    for at, (found, mask, other) in enumerate(zip(result.found, masks, others, strict=True)):
        p, here = by_place.get(at), aim.look(mask, result.searched)
        # What lies higher in one half and lower in the other is not the same finding.
        same = other.effect is not None and here.effect is not None and other.effect * here.effect >= 0
        words = " and ".join(condition.words for condition in found.conditions)
        subsets.append(
            ConfirmedSubset(
                found.conditions,
                aim.tell(mask, words),
                np.flatnonzero(mask & aim.there),
                found,
                here,
                other,
                p,
                p is not None and p <= level and same,
            )
        )
    subsets.sort(key=lambda subset: not subset.confirmed)
    searched = int(np.count_nonzero(result.searched & aim.there))
    rest = int(np.count_nonzero(aim.there)) - searched
    return SubsetSearch(aim.name, aim.effect, tuple(subsets), result.tried, searched, rest, result.least, level)


def _differs(one: Sample, rest: Sample, style: NumberStyle) -> str:
    """How the values of a subset differ from the others."""
    delta = cliff_delta(one, rest).value or 0.0
    a, b = one.moments, rest.moments
    if abs(delta) >= _SLIGHT:
        medians = f"median {style.statistic(one.median)} against {style.statistic(rest.median)}"
        return f"is {'higher' if delta > 0 else 'lower'} ({medians})"
    ratio = (a.sd or 0.0) / b.sd if a is not None and b is not None and b.sd else 1.0
    if ratio > _WIDER or ratio < 1 / _WIDER:
        return f"varies {'more' if ratio > 1 else 'less'} ({number(ratio, 2)} times the SD of the rest)"
    return "is distributed otherwise"


def _half(half: Half) -> str:
    if half.effect is None:
        return "none"
    ends = "" if half.low is None or half.high is None else f" ({signed(half.low, 2)} to {signed(half.high, 2)})"
    return f"{signed(half.effect, 2)}{ends}, n {count(half.n)}"
