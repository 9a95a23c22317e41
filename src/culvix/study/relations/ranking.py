"""Relations: every pair of numeric columns by strength, and which kind of coefficient to read of one."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from culvix.errors import CulvixError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.correlation.partial import partial_correlation
from culvix.stats.correlation.result import CorrelationMatrix, PairCorrelation, present_pairs
from culvix.stats.normality.verdict import Verdict
from culvix.stats.registry import CORRELATION_KINDS
from culvix.stats.resampling.multiple_testing import benjamini_hochberg
from culvix.tables.model.table import Role

__all__ = [
    "MOST_COLUMNS",
    "RANKING",
    "RankedPair",
    "Relations",
    "Suggestion",
    "coefficient_name",
    "complete_rows",
    "kind_matrix",
    "needs_approximation",
    "rank_pairs",
    "suggest_kind",
]

RANKING = tuple(key for key, kind in CORRELATION_KINDS.items() if kind.ranks)
"""The kinds by which all pairs are ranked."""

MOST_COLUMNS = 300
"""Beyond this many columns, pairs are ranked only for chosen ones: there would be tens of thousands."""


_FEW_DIFFERENT = 10
"""So many different values are few: codes, or a scale of steps."""
MOST_WORK_AT_ONCE = 10_000_000
"""Rows times pairs, twice over, that are correlated by rank in about a tenth of a second."""


@dataclass(frozen=True)
class RankedPair:
    """One pair with its coefficient of each kind, over the same ``n`` rows; ``lost`` lack one of the two values.

    ``adjusted`` has the p of each kind adjusted for all pairs that were tried (Benjamini & Hochberg 1995).
    """

    x: str
    y: str
    n: int
    lost: int
    coefficients: dict[str, PairCorrelation]
    adjusted: dict[str, float | None]

    @property
    def gap(self) -> float | None:
        """How much stronger the last kind, of ranks, is than the first, of values; None where either is missing."""
        found = [pair.r for pair in self.coefficients.values()]
        first, last = found[0], found[-1]
        return None if first is None or last is None or len(found) < 2 else abs(last) - abs(first)

    @property
    def strength(self) -> float:
        """The largest coefficient in size, by which pairs are ranked; 0 where there is none."""
        return max((abs(pair.r) for pair in self.coefficients.values() if pair.r is not None), default=0.0)


@dataclass(frozen=True, eq=False)
class Relations:
    """All pairs, strongest first, and the matrices they come from.

    ``is_approximate``: rank correlations may still change in their fourth decimal. ``complete`` rows have a value in
    every column: only these count where it is ``listwise``.
    """

    columns: tuple[str, ...]
    matrices: dict[str, CorrelationMatrix]
    pairs: tuple[RankedPair, ...]
    is_approximate: bool = False
    complete: int = 0
    listwise: bool = False


@dataclass(frozen=True)
class Suggestion:
    """The kind of correlation to read first for a pair, and why."""

    kind: str
    reason: str


def _pair_of(matrix: CorrelationMatrix, i: int, j: int) -> PairCorrelation:
    r, p = float(matrix.r[i, j]), float(matrix.p[i, j])
    note = matrix.notes.get((i, j))
    return PairCorrelation(
        matrix.kind, None if np.isnan(r) else r, None if np.isnan(p) else p, int(matrix.n[i, j]), note
    )


def _adjusted(matrix: CorrelationMatrix) -> Floats:
    """p of every pair adjusted for all of them, above the diagonal; NaN where there is none."""
    adjusted = np.full(matrix.p.shape, np.nan)
    tried = np.triu(np.isfinite(matrix.p), 1)
    adjusted[tried] = benjamini_hochberg(matrix.p[tried])
    return adjusted


def needs_approximation(columns: Sequence[Floats]) -> bool:
    """Whether the exact ranking of all pairs takes so long that a first look is worth having."""
    work = len(columns) ** 2 * columns[0].size if columns else 0
    return work > MOST_WORK_AT_ONCE and any(not np.isfinite(column).all() for column in columns)


def rank_pairs(
    names: Sequence[str],
    columns: Sequence[Floats],
    progress: Progress = silent,
    *,
    kinds: Sequence[str] = RANKING,
    is_approximate: bool = False,
    listwise: bool = False,
) -> Relations:
    """Correlate every pair of ``columns`` (each shape ``(rows,)``) by ``kinds``, strongest first.

    ``is_approximate`` takes the shorter way where a kind has one; ``listwise`` takes only rows that have all columns.
    Raises CulvixError for more than MOST_COLUMNS columns.
    """
    if len(names) > MOST_COLUMNS:
        pairs = len(names) * (len(names) - 1) // 2
        raise CulvixError(f"{len(names)} numeric columns make {pairs} pairs; choose at most {MOST_COLUMNS} of them.")
    present = np.array([np.count_nonzero(np.isfinite(column)) for column in columns])
    every = complete_rows(columns)
    if listwise:
        columns = [np.where(every, column, np.nan) for column in columns]
    matrices = {}
    for position, key in enumerate(kinds):
        progress(position / len(kinds), f"correlating by {CORRELATION_KINDS[key].name}")
        kind = CORRELATION_KINDS[key]
        short_way = kind.approximation if is_approximate else None
        if short_way is None:
            matrices[key] = kind_matrix(key, columns, partial(_of_kind, progress, position, len(kinds), kind.name))
        else:
            matrices[key] = short_way(list(columns))
    ranked = []
    adjusted = {key: _adjusted(matrix) for key, matrix in matrices.items()}
    for i in range(len(names)):
        for j in range(i + 1, len(names)):
            found = {key: _pair_of(matrix, i, j) for key, matrix in matrices.items()}
            n = next(iter(found.values())).n
            corrected = {key: None if np.isnan(p[i, j]) else float(p[i, j]) for key, p in adjusted.items()}
            lost = int(present[i] + present[j] - 2 * n)
            ranked.append(RankedPair(names[i], names[j], n, lost, found, corrected))
    ranked.sort(key=lambda pair: (-pair.strength, pair.x, pair.y))
    complete = int(np.count_nonzero(every))
    return Relations(tuple(names), matrices, tuple(ranked), is_approximate, complete, listwise)


def complete_rows(columns: Sequence[Floats]) -> NDArray[np.bool_]:
    """Which rows have a value in each of ``columns``, all of shape ``(rows,)``."""
    every = np.ones(columns[0].size if columns else 0, dtype=bool)
    for column in columns:
        every &= np.isfinite(column)
    return every


def kind_matrix(key: str, columns: Sequence[Floats], progress: Progress = silent) -> CorrelationMatrix:
    """All pairs of ``columns`` (each shape ``(rows,)``) by one kind. Raises what ``progress`` raises."""
    kind = CORRELATION_KINDS[key]
    return kind.matrix(list(columns), progress) if kind.watched else kind.matrix(list(columns))


def _of_kind(progress: Progress, position: int, kinds: int, name: str, share: float, _: str) -> None:
    """Tell how far the work on all kinds is, when that on one of them is done by ``share``."""
    progress((position + share) / kinds, f"correlating by {name}")


def suggest_kind(
    x: str,
    y: str,
    x_values: Floats,
    y_values: Floats,
    normality: dict[str, Verdict],
    alpha: float,
    distinct: Mapping[str, int] | None = None,
) -> Suggestion:
    """Pearson where both columns pass as normal and the relation is straight, otherwise Spearman.

    Values have shape ``(rows,)``; ``normality`` has the verdict on each of the two columns. A relation counts as bent
    where a square term is significant at ``alpha`` and accounts for at least 2 % of what the line leaves. ``distinct``
    has how many different values each column has, where the reason is to name few of them.
    """
    not_normal = [name for name in (x, y) if normality[name].rejects is not False]
    if not_normal:
        few = {name: many for name, many in (distinct or {}).items() if many <= _FEW_DIFFERENT}
        return Suggestion("spearman", f"Spearman: {_why_ranks(not_normal, few)}")
    both = present_pairs(x_values, y_values)
    a, b = x_values[both], y_values[both]
    middle = a - a.mean() if a.size else a
    bend = partial_correlation(b, middle * middle, [a])
    if bend.r is not None and bend.p is not None and bend.p < alpha and bend.r**2 >= 0.02:
        return Suggestion("spearman", "Spearman: the relation bends, and ranks follow it as long as it rises or falls.")
    return Suggestion("pearson", "Pearson: both columns pass as normal, and no bend is shown.")


def _why_ranks(not_normal: Sequence[str], few: Mapping[str, int]) -> str:
    """Why ranks are read of columns that are not shown to be normal: because of what they are, where that is known."""
    tied = [f"{name} has {few[name]} different values" for name in not_normal if name in few]
    others = [name for name in not_normal if name not in few]
    parts = [*tied]
    if others:
        parts.append(f"{' and '.join(others)} {'are' if len(others) > 1 else 'is'} not shown to be normal")
    if not tied:
        return f"{parts[0]}, and ranks do not need it."
    return f"{', and '.join(parts)}; ranks need no shape, and rows that tie share one. Kendall's τ-b leaves ties out."


def coefficient_name(kind: str, roles: tuple[Role, Role]) -> str:
    """What the coefficient of ``kind`` is called for columns of these roles: Pearson's has names of its own."""
    two_valued = sum(role is Role.YES_NO for role in roles)
    if kind == "pearson" and two_valued:
        return "Point-biserial" if two_valued == 1 else "Phi"
    return CORRELATION_KINDS[kind].name
