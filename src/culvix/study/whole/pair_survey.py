"""Pearson's coefficient of all pairs of columns of a whole table: what is asked of each, and what follows."""

from collections.abc import Mapping, Sequence
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
_MOST_CORRELATED = 40
"""Of more columns of numbers the pairs are too many for one reading."""


class PairSurvey:
    """All pairs of ``columns`` that have numbers, after the first reading: about their means no digit is lost."""

    def __init__(self, columns: Sequence[ColumnSurvey]) -> None:
        self._columns = [each for each in columns if each.n][:_MOST_CORRELATED]
        self._asked = {
            (a, b): _asked(self._columns[a], self._columns[b]) for a, b in combinations(range(len(self._columns)), 2)
        }
        self._sums: dict[tuple[int, int], PairSums] = {}

    def wanted(self) -> list[Request]:
        """What is to be asked, each once."""
        return list(dict.fromkeys(request for each in self._asked.values() for request in each))

    def take(self, answers: Mapping[Request, Answer]) -> None:
        """Take up what was answered."""
        for (a, b), asked in self._asked.items():
            self._sums[a, b] = _sums(self._columns[a], self._columns[b], asked, answers)

    def matrix(self) -> tuple[tuple[str, ...], Floats, Ints]:
        """The columns' names, the matrix of the coefficients, NaN where there is none, and of their rows."""
        size = len(self._columns)
        r, n = np.full((size, size), nan), np.zeros((size, size), dtype=np.int64)
        for place, each in enumerate(self._columns):
            n[place, place] = each.n
            r[place, place] = 1.0 if each.varies else nan
        for (a, b), sums in self._sums.items():
            n[a, b] = n[b, a] = sums.n
            r[a, b] = r[b, a] = _pearson(sums)
        return tuple(each.column.name for each in self._columns), r, n


def _asked(x: ColumnSurvey, y: ColumnSurvey) -> list[Request]:
    """Little where one of the two has no gaps: then the rows with both are those of the other."""
    names, centres, scales = (x.column.name, y.column.name), (_centre(x), _centre(y)), (x.scale, y.scale)
    if not (x.is_complete or y.is_complete):
        return [PairSumsQuery(*names, centres, scales)]
    asked: list[Request] = [Products(*names, centres, scales)]
    if not y.is_complete:
        asked.append(SumsWhereQuery(*names, centres, scales))
    if not x.is_complete:
        asked.append(SumsWhereQuery(*names[::-1], centres[::-1], scales[::-1]))
    return asked


def _centre(column: ColumnSurvey) -> float:
    """The mean; 0 where this is so near that no digit that matters is lost, as an engine need take no distances."""
    moments = column.moments
    near = moments is not None and moments.sd is not None and abs(moments.mean) < _NEAR * moments.sd
    return 0.0 if near else column.mean


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


def _pearson(sums: PairSums) -> float:
    if sums.n < 2:
        return nan
    xx = sums.xx - sums.x * sums.x / sums.n
    yy = sums.yy - sums.y * sums.y / sums.n
    if not (0 < xx < inf and 0 < yy < inf):
        return nan
    return min(max((sums.xy - sums.x * sums.y / sums.n) / (sqrt(xx) * sqrt(yy)), -1.0), 1.0)
