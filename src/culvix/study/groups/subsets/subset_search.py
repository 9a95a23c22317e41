"""The search for subsets, named by one to three conditions, whose distribution departs most from that of the rest.

Half of the rows, seeded, are searched; what was found is confirmed on the other half, which the search has not seen.
Subsets are extended from the best ones of the length before. A condition that adds nothing is not added: the subset
must depart from what it was cut out of, too.
"""

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import product
from math import log

import numpy as np
from scipy.special import chdtrc, kolmogorov

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.study.groups.attributes import Attribute, Condition, words_of

__all__ = ["FoundSubset", "SearchResult", "Target", "search_subsets", "target_of_levels", "target_of_values"]

_TARGET_BINS = 64
_BEAM, _SAME_COLUMNS = 60, 6
"""So many subsets are extended, and of these so many that are named by the same columns."""
_NARROWS = 0.05 / 500
"""A condition is added where the p of what it cuts out, against the rest of what it is cut out of, is below this."""
_MOST_FOUND = 12
"""So many subsets are taken to be confirmed."""
_ALIKE = 0.9
"""Of subsets that share so much of all their rows only the strongest is extended."""
_LEAST_SHARE, _LEAST_ROWS = 0.01, 20


@dataclass(frozen=True, eq=False)
class Target:
    """The column whose distribution is compared: its ``codes``, shape ``(rows,)``, −1 for none, of ``levels``.

    They are levels of a category, or where it is ``ordered`` the places of values among the quantiles of all.
    """

    codes: Ints
    levels: int
    ordered: bool


@dataclass(frozen=True)
class FoundSubset:
    """A subset by its ``conditions``: ``n`` rows of those searched, how far it departs, and ``adjusted`` p.

    ``departure`` is the largest distance of the distribution functions, or of a category the share of rows that would
    have to change their level.
    """

    conditions: tuple[Condition, ...]
    n: int
    departure: float
    p: float
    adjusted: float


@dataclass(frozen=True, eq=False)
class SearchResult:
    """What was found, the farthest first, among ``tried`` subsets; ``searched`` marks the rows the search has seen."""

    found: tuple[FoundSubset, ...]
    tried: int
    searched: Bools
    least: int


def target_of_values(values: Floats) -> Target:
    """The target of a column of numbers, shape ``(rows,)``, NaN for none."""
    there = np.isfinite(values)
    x = np.sort(values[there])
    cuts = np.unique(x[(np.arange(1, _TARGET_BINS) * x.size) // _TARGET_BINS]) if x.size else x
    codes: Ints = np.searchsorted(cuts, values, side="right").astype(np.int64)
    codes[~there] = -1
    return Target(codes, cuts.size + 1, ordered=True)


def target_of_levels(codes: Ints, levels: int) -> Target:
    """The target of a category."""
    return Target(codes, levels, ordered=False)


@dataclass(frozen=True, eq=False)
class _Candidate:
    conditions: tuple[tuple[int, int, int], ...]
    """Places of attributes, each with the first and last level."""
    n: int
    departure: float
    strength: float
    p: float


def search_subsets(
    target: Target,
    attributes: Sequence[Attribute],
    *,
    conditions: int = 3,
    level: float = 0.05,
    seed: int = 1,
    progress: Progress = silent,
) -> SearchResult:
    """Search half of the rows for subsets named by up to so many ``conditions``.

    p is adjusted over all subsets tried (Benjamini & Yekutieli 2001: they may depend on each other in any way), and
    those at or below ``level`` are found. ``progress`` is told the best so far; what it raises ends the search.
    """
    rows = target.codes.size
    searched = np.zeros(rows, dtype=bool)
    searched[np.random.Generator(np.random.PCG64(seed)).permutation(rows)[: rows // 2]] = True
    search = _Search(target, attributes, np.flatnonzero(searched & (target.codes >= 0)), level)
    beam: list[_Candidate] = [_Candidate((), search.rows.size, 0.0, 0.0, 1.0)]
    candidates: list[_Candidate] = []
    for depth in range(conditions):
        beam = search.extend(beam, depth, conditions, progress)
        candidates += beam
        if not beam:
            break
    found = search.named(search.apart(candidates))
    return SearchResult(tuple(found), search.tried, searched, search.least)


class _Search:
    """The rows searched, and how many subsets have been tried."""

    def __init__(self, target: Target, attributes: Sequence[Attribute], rows: Ints, level: float) -> None:
        self.target, self.attributes, self.rows, self.level = target, attributes, rows, level
        self.codes = [attribute.shifted[rows] for attribute in attributes]
        self.aim = target.codes[rows]
        self.total = np.bincount(self.aim, minlength=target.levels)
        self.least = max(round(_LEAST_SHARE * rows.size), _LEAST_ROWS)
        self.tried = 0
        self._ps: list[Floats] = []
        self._best = ""

    def extend(self, beam: Sequence[_Candidate], depth: int, depths: int, progress: Progress) -> list[_Candidate]:
        """The best subsets with one condition more than those of ``beam``."""
        made: dict[tuple[tuple[int, int, int], ...], _Candidate] = {}
        for position, parent in enumerate(beam):
            progress((depth + position / len(beam)) / depths, f"{self.tried} subsets tried{self._best}")
            inside = self._inside(parent.conditions)
            used = {index for index, _, _ in parent.conditions}
            for index in range(len(self.attributes)):
                if index not in used:
                    for candidate in self._extensions(parent, inside, index):
                        made.setdefault(candidate.conditions, candidate)
            if made:
                strongest = max(made.values(), key=lambda each: each.strength)
                self._best = f"; best so far: {self._words(strongest.conditions)}"
        ranked = sorted(made.values(), key=lambda each: -each.strength)
        return self._different(ranked)

    def _inside(self, conditions: Sequence[tuple[int, int, int]]) -> Ints:
        inside = np.ones(self.rows.size, dtype=bool)
        for index, first, last in conditions:
            inside &= (self.codes[index] >= first) & (self.codes[index] <= last)
        return np.flatnonzero(inside)

    def _extensions(self, parent: _Candidate, inside: Ints, index: int) -> Iterator[_Candidate]:
        """The subsets that one more condition on the attribute at ``index`` makes and that depart as far as counts."""
        attribute, levels = self.attributes[index], self.target.levels
        many = len(attribute.levels)
        cells = self.codes[index][inside] * levels + self.aim[inside]
        counts = np.bincount(cells, minlength=(many + 1) * levels).reshape(many + 1, levels)
        spans = _spans(attribute)
        summed = np.vstack((np.zeros((1, levels), dtype=np.int64), np.cumsum(counts, axis=0)))
        firsts, lasts = spans[:, 0], spans[:, 1]
        subsets = summed[lasts + 1] - summed[firsts]
        sizes = subsets.sum(axis=1)
        whole = int(counts.sum())
        # A subset needs rows inside and outside, of all and of what it is cut out of.
        fits = (sizes >= self.least) & (self.rows.size - sizes >= self.least) & (sizes < whole)
        spans, subsets, sizes = spans[fits], subsets[fits], sizes[fits]
        self.tried += sizes.size
        if not sizes.size:
            return
        departure, p, strength = self._departures(subsets, self.total)
        self._ps.append(p)
        narrows = np.ones(sizes.size, dtype=bool)
        if parent.conditions:
            narrows = self._departures(subsets, counts.sum(axis=0))[1] <= _NARROWS
        for at in np.flatnonzero(narrows):
            conditions = tuple(sorted((*parent.conditions, (index, int(spans[at, 0]), int(spans[at, 1])))))
            yield _Candidate(conditions, int(sizes[at]), float(departure[at]), float(strength[at]), float(p[at]))

    def _departures(self, subsets: Ints, whole: Ints) -> tuple[Floats, Floats, Floats]:
        """How far each of ``subsets`` (counts by level, shape ``(s, levels)``) departs from the rest of ``whole``.

        The distance, p, and the distance with the weight of its sizes, each of shape ``(s,)``.
        """
        rest = whole[None] - subsets
        n, m = subsets.sum(axis=1).astype(np.float64), rest.sum(axis=1).astype(np.float64)
        with np.errstate(divide="ignore", invalid="ignore"):
            shares = subsets / n[:, None] - rest / m[:, None]
            weight = np.sqrt(n * m / (n + m))
            if self.target.ordered:
                distance = np.abs(np.cumsum(shares, axis=1)).max(axis=1)
                strength = distance * weight
                p = kolmogorov(strength)
            else:
                distance = np.abs(shares).sum(axis=1) / 2
                expected = (subsets + rest) * (n / (n + m))[:, None]
                other = (subsets + rest) * (m / (n + m))[:, None]
                off = np.where(expected > 0, (subsets - expected) ** 2, 0.0)
                square = np.where(expected > 0, off / expected + off / other, 0.0).sum(axis=1)
                freedom = np.maximum(np.count_nonzero(expected > 0, axis=1) - 1, 1)
                p = chdtrc(freedom, square)
                strength = np.sqrt(square)
        none = (n == 0) | (m == 0)
        return np.where(none, 0.0, distance), np.where(none, 1.0, p), np.where(none, 0.0, strength)

    def _different(self, ranked: Sequence[_Candidate]) -> list[_Candidate]:
        """The strongest ones, without those that have all but the same rows as a stronger one."""
        chosen: list[tuple[_Candidate, Bools]] = []
        by_columns: Counter[tuple[int, ...]] = Counter()
        for candidate in ranked:
            columns = tuple(index for index, _, _ in candidate.conditions)
            if by_columns[columns] == _SAME_COLUMNS or not self._needs_all(candidate):
                continue
            mask = np.zeros(self.rows.size, dtype=bool)
            mask[self._inside(candidate.conditions)] = True
            if all(_overlap(mask, other) < _ALIKE for _, other in chosen):
                chosen.append((candidate, mask))
                by_columns[columns] += 1
            if len(chosen) == _BEAM:
                break
        return [candidate for candidate, _ in chosen]

    def _needs_all(self, candidate: _Candidate) -> bool:
        """Whether each of its conditions narrows what the others leave."""
        if len(candidate.conditions) < 2:
            return True
        inside = np.bincount(self.aim[self._inside(candidate.conditions)], minlength=self.target.levels)
        for at in range(len(candidate.conditions)):
            others = candidate.conditions[:at] + candidate.conditions[at + 1 :]
            whole = np.bincount(self.aim[self._inside(others)], minlength=self.target.levels)
            if self._departures(inside[None], whole)[1][0] > _NARROWS:
                return False
        return True

    def apart(self, candidates: Sequence[_Candidate]) -> list[tuple[_Candidate, float]]:
        """The subsets found, each with its adjusted p, the strongest first.

        What departs only because a stronger one is among its rows, or among the rest, is no finding of its own.
        """
        if not candidates:
            return []
        adjusted = self._adjusted(candidates)
        ranked = sorted(zip(candidates, adjusted, strict=True), key=lambda each: -each[0].strength)
        chosen: list[tuple[_Candidate, float]] = []
        left = np.ones(self.rows.size, dtype=bool)
        for candidate, p in ranked:
            if p > self.level or len(chosen) == _MOST_FOUND:
                continue
            mask = np.zeros(self.rows.size, dtype=bool)
            mask[self._inside(candidate.conditions)] = True
            if not chosen or self._departs_among(mask, left):
                chosen.append((candidate, p))
                left &= ~mask
        return chosen

    def _departs_among(self, mask: Bools, left: Bools) -> bool:
        """Whether a subset departs from the rest in the rows ``left``, too."""
        inside, every = (np.bincount(self.aim[rows], minlength=self.target.levels) for rows in (mask & left, left))
        enough = min(inside.sum(), every.sum() - inside.sum()) >= self.least
        return bool(enough and self._departures(inside[None], every)[1][0] <= _NARROWS)

    def _adjusted(self, candidates: Sequence[_Candidate]) -> list[float]:
        """p of each of ``kept``, adjusted over all that were tried."""
        every = np.sort(np.concatenate(self._ps))
        m = every.size
        harmonic = log(m) + 0.5772156649 + 1 / (2 * m)
        raised = every * m * harmonic / np.arange(1, m + 1)
        lowest = np.minimum.accumulate(raised[::-1])[::-1]
        return [float(min(lowest[np.searchsorted(every, each.p, side="right") - 1], 1.0)) for each in candidates]

    def _words(self, conditions: Sequence[tuple[int, int, int]]) -> str:
        return " and ".join(words_of(self.attributes[index], first, last) for index, first, last in conditions)

    def named(self, found: Sequence[tuple[_Candidate, float]]) -> Iterator[FoundSubset]:
        """The subsets by the names of their columns."""
        for candidate, adjusted in found:
            conditions = tuple(
                Condition(self.attributes[index].column, first, last, words_of(self.attributes[index], first, last))
                for index, first, last in candidate.conditions
            )
            yield FoundSubset(conditions, candidate.n, candidate.departure, candidate.p, adjusted)


def _overlap(one: Bools, other: Bools) -> float:
    """Which share of the rows in either are in both."""
    either = int(np.count_nonzero(one | other))
    return int(np.count_nonzero(one & other)) / either if either else 1.0


def _spans(attribute: Attribute) -> Ints:
    """First and last level of every condition on ``attribute``, shape ``(conditions, 2)``; the last one is missing."""
    many = len(attribute.levels)
    if not attribute.is_ordered:
        spans = [(level, level) for level in range(many)]
    else:
        every = product(range(many), repeat=2)
        spans = [(first, last) for first, last in every if first <= last and last - first < many - 1]
    return np.array([*spans, (many, many)], dtype=np.int64)
