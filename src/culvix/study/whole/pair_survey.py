"""Pearson's coefficient of all pairs of columns of a whole table: what is asked of each, and what follows."""

from collections.abc import Iterator, Mapping, Sequence
from itertools import combinations
from math import inf, nan, sqrt

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.study.whole.column_survey import ColumnSurvey
from culvix.tables.engines.requests import (
    Answer,
    PairSums,
    PairSumsQuery,
    Products,
    Request,
    SumsWhere,
    SumsWhereQuery,
)

__all__ = ["PairSurvey"]

_NEAR = 16
"""SDs."""
_LEAST_SHARE = 1e-4
"""Of the squares of distances from centres as near as that at least 1 part in 257 is spread."""
_MOST_CORRELATED = 40
"""Of more columns of numbers the pairs are too many for one reading."""


class PairSurvey:
    """All pairs of ``columns``, about centres so near their means that no digit is lost.

    Asked before it is known which columns have gaps, or where their means are, what was wrongly taken for granted is
    asked anew in the next reading; so is a pair whose rows lie so close together, far from these means, that their
    spread is lost.
    """

    def __init__(self, columns: Sequence[ColumnSurvey]) -> None:
        self._columns = columns
        self._centres: dict[str, float] = {}
        self._answers: dict[Request, Answer] = {}
        self._closer: dict[tuple[str, str], PairSumsQuery] = {}
        """Pairs that are asked about the means of their own rows."""

    @property
    def _correlated(self) -> list[ColumnSurvey]:
        return [each for each in self._columns if each.n][:_MOST_CORRELATED]

    def _asked(self) -> Iterator[tuple[ColumnSurvey, ColumnSurvey, list[Request]]]:
        """What each pair needs, as far as can be told."""
        for x, y in combinations(self._correlated, 2):
            names = x.column.name, y.column.name
            closer = self._closer.get(names)
            yield x, y, [closer] if closer else _asked(x, y, (self._centres[names[0]], self._centres[names[1]]))

    def wanted(self) -> list[Request]:
        """What is to be asked in the next reading, each once; nothing when all is known."""
        for each in self._correlated:
            centre = self._centres.get(each.column.name)
            if centre is None or not _is_near(each, centre):
                self._centres[each.column.name] = 0.0 if _is_near(each, 0.0) else each.mean
        self._recentre()
        every = (request for _, _, asked in self._asked() for request in asked)
        return [each for each in dict.fromkeys(every) if each not in self._answers]

    def _recentre(self) -> None:
        """Ask a pair about the means of its own rows where the spread about these was lost."""
        for x, y, asked in list(self._asked()):
            names, first = (x.column.name, y.column.name), asked[0]
            if names in self._closer or not (x.varies and y.varies and all(each in self._answers for each in asked)):
                continue
            sums = _sums(x, y, asked, self._answers)
            if sums.n > 1 and _is_lost(sums) and isinstance(first, Products | PairSumsQuery):
                self._closer[names] = PairSumsQuery(*names, _means(sums, first), first.scales)

    def take(self, answers: Mapping[Request, Answer]) -> None:
        """Take up what was answered."""
        self._answers |= {
            request: answer
            for request, answer in answers.items()
            if isinstance(request, PairSumsQuery | Products | SumsWhereQuery)
        }

    def matrix(self) -> tuple[tuple[str, ...], Floats, Ints]:
        """The columns' names, the matrix of the coefficients, NaN where there is none, and of their rows."""
        columns = self._correlated
        indices = {each.column.name: index for index, each in enumerate(columns)}
        r, n = np.full((len(columns), len(columns)), nan), np.zeros((len(columns), len(columns)), dtype=np.int64)
        for index, each in enumerate(columns):
            n[index, index] = each.n
            r[index, index] = 1.0 if each.varies else nan
        for x, y, asked in self._asked():
            a, b = indices[x.column.name], indices[y.column.name]
            sums = _sums(x, y, asked, self._answers)
            n[a, b] = n[b, a] = sums.n
            r[a, b] = r[b, a] = _pearson(sums)
        return tuple(indices), r, n


def _is_near(column: ColumnSurvey, centre: float) -> bool:
    """Whether a centre is so near the mean that no digit that matters is lost."""
    return abs(column.mean - centre) < _NEAR * column.spread


def _asked(x: ColumnSurvey, y: ColumnSurvey, centres: tuple[float, float]) -> list[Request]:
    """Little where one of the two has no gaps: then the rows with both are those of the other."""
    names, scales = (x.column.name, y.column.name), (x.scale, y.scale)
    if not (x.is_complete or y.is_complete):
        return [PairSumsQuery(*names, centres, scales)]
    asked: list[Request] = [Products(*names, centres, scales)]
    if not y.is_complete:
        asked.append(SumsWhereQuery(*names, centres, scales))
    if not x.is_complete:
        asked.append(SumsWhereQuery(*names[::-1], centres[::-1], scales[::-1]))
    return asked


def _sums(x: ColumnSurvey, y: ColumnSurvey, asked: Sequence[Request], answers: Mapping[Request, Answer]) -> PairSums:
    first, found = asked[0], answers[asked[0]]
    if isinstance(found, PairSums):
        return found
    assert isinstance(first, Products) and isinstance(found, float)
    about = {each.column: answers[each] for each in asked if isinstance(each, SumsWhereQuery)}
    of_x, of_y = (
        _sums_of(each, centre, about.get(each.column.name)) for each, centre in zip((x, y), first.centres, strict=True)
    )
    return PairSums(min(x.n, y.n), of_x.x, of_y.x, of_x.xx, of_y.xx, found)


def _sums_of(column: ColumnSurvey, centre: float, where: Answer) -> SumsWhere:
    """Of the rows with both: those that were asked for, or all of the column."""
    return where if isinstance(where, SumsWhere) else SumsWhere(*column.sums_about(centre))


def _means(sums: PairSums, asked: Products | PairSumsQuery) -> tuple[float, float]:
    """Those of the rows of a pair."""
    x, y = (
        centre + scale * (total / sums.n)
        for centre, scale, total in zip(asked.centres, asked.scales, (sums.x, sums.y), strict=True)
    )
    return x, y


def _about_means(sums: PairSums) -> tuple[float, float]:
    """The sums of squares about the means of the rows of a pair."""
    return sums.xx - sums.x * sums.x / sums.n, sums.yy - sums.y * sums.y / sums.n


def _is_lost(sums: PairSums) -> bool:
    """Whether the spread is so little of what was summed that its digits are not known."""
    xx, yy = _about_means(sums)
    return xx < _LEAST_SHARE * sums.xx or yy < _LEAST_SHARE * sums.yy


def _pearson(sums: PairSums) -> float:
    if sums.n < 2 or _is_lost(sums):
        return nan
    xx, yy = _about_means(sums)
    if not (0 < xx < inf and 0 < yy < inf):
        return nan
    return min(max((sums.xy - sums.x * sums.y / sums.n) / (sqrt(xx) * sqrt(yy)), -1.0), 1.0)
