"""What to be careful of in the relations of a table: pairs whose coefficient does not say what it seems to.

Each kind of finding is tested over all pairs, p adjusted by Holm (1979): in tables of unrelated columns each is raised
falsely in at most `LEVEL` of them, as far as the tests behind it hold.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import isfinite, sqrt

import numpy as np
from scipy.special import stdtr

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.correlation.partial import partial_correlation
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.correlation.spearman import spearman
from culvix.stats.describe.influence import pearson_left_out, sums_of
from culvix.stats.display import coefficients, count, p_value, per_cent
from culvix.stats.regression.line_influence import line_influence
from culvix.stats.resampling.multiple_testing import holm
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.analysis.working_set import WorkingSet
from culvix.tables.model.table import Role, Table

__all__ = ["KINDS", "LEVEL", "MOST_COLUMNS", "NOT_LOOKED", "RelationFinding", "findings_of_table", "relation_findings"]

LEVEL = 0.05
MOST_COLUMNS = 60
"""With more columns than this pairs are not looked through: it would take minutes."""
NOT_LOOKED = f"Pairs of more than {MOST_COLUMNS} columns are not looked through for what to note."

KINDS = {
    "reversal": "turns within groups",
    "one_row": "one row decides",
    "curve": "bends",
    "near_copy": "near-copy",
    "lost": "rows lost",
}
"""The kinds of findings, by key, in few words."""

_MOST_GROUPS = 12
"""Categories within which signs are looked at have at most so many levels."""
_FEWEST = 8
_LEAST_BEND = 0.02
"""A bend accounts for at least this share of what the line leaves."""
_LEAST_TURN = 0.1
_MOVES = 0.05
"""A row that moves r by less is no finding, however far off it lies."""
_NEAR_COPY = 0.99
_LIKELY, _LIKELY_COPY = 0.9, 0.9
"""What falls short of a limit by more than this at a quick look is not worked out with care."""
_MOST_LOST = 0.2
_ENDS = (0.01, 0.05)
"""Bends are looked for with these shares of the values at either end drawn in."""
_FEWEST_VALUES = 5
_LEAST_RISE = 0.3
"""With a smaller coefficient of ranks a bent relation neither rises nor falls."""


@dataclass(frozen=True)
class RelationFinding:
    """A ``sentence`` about the pair ``x``, ``y``, of one of `KINDS`; ``by`` are groups, ``row`` is one from 0."""

    kind: str
    x: str
    y: str
    sentence: str
    by: str | None = None
    row: int | None = None


@dataclass(frozen=True, eq=False)
class _Pair:
    """Two columns over the ``rows`` (from 0) where both have a value."""

    x: str
    y: str
    rows: Ints
    a: Floats
    b: Floats
    r: PairCorrelation


@dataclass(frozen=True)
class _Candidate:
    """A finding that stands if its p, adjusted for all pairs that were tried, is below `LEVEL`."""

    p: float
    finding: RelationFinding


def relation_findings(
    names: Sequence[str],
    columns: Sequence[Floats],
    groups: Sequence[Grouping] = (),
    *,
    row_name: Callable[[int], str] = lambda row: f"row {row + 1}",
    progress: Progress = silent,
) -> tuple[RelationFinding, ...]:
    """What stands out among all pairs of ``columns`` (each shape ``(rows,)``), by kind and pair.

    ``groups`` are those within which signs may turn; ``row_name`` says what a row is called. Empty for more columns
    than `MOST_COLUMNS`. Raises what ``progress`` raises.
    """
    if not 2 <= len(names) <= MOST_COLUMNS:
        return ()
    chosen = list(combinations(range(len(names)), 2))
    pairs, plain = [], []
    for position, (i, j) in enumerate(chosen):
        progress(position / len(chosen), f"looking at {names[i]} and {names[j]}")
        both = np.isfinite(columns[i]) & np.isfinite(columns[j])
        rows = np.flatnonzero(both)
        lost = np.count_nonzero(np.isfinite(columns[i]) | np.isfinite(columns[j])) - rows.size
        plain += _lost(names[i], names[j], int(lost), rows.size)
        if rows.size >= _FEWEST:
            a, b = columns[i][rows], columns[j][rows]
            pairs.append(_Pair(names[i], names[j], rows, a, b, pearson(a, b)))
    related = _holm([pair.r.p for pair in pairs])
    found: dict[str, list[_Candidate]] = {"curve": [], "reversal": []}
    tried = {"curve": 0, "reversal": 0}
    for position, (pair, p) in enumerate(zip(pairs, related, strict=True)):
        progress(position / len(pairs), f"looking at {pair.x} and {pair.y}")
        plain += _near_copy(pair)
        plain += _one_row(pair, p, len(pairs), row_name)
        for kind, look in (("curve", _bends), ("reversal", lambda each: _turns(each, groups))):
            candidates, looked = look(pair)
            found[kind] += candidates
            tried[kind] += looked
    for kind, candidates in found.items():
        # Those that were no candidates for their size were tried, too.
        adjusted = _holm([*(each.p for each in candidates), *[1.0] * (tried[kind] - len(candidates))])
        plain += [each.finding for each, held in zip(candidates, adjusted, strict=False) if held < LEVEL]
    order = list(KINDS)
    return tuple(sorted(plain, key=lambda each: order.index(each.kind)))


def findings_of_table(table: Table, working: WorkingSet, progress: Progress = silent) -> tuple[RelationFinding, ...]:
    """What stands out among the numeric columns of ``table`` as they are in use, and within its categories."""
    columns = [column for column in table.numeric if column.is_data]
    if len(columns) > MOST_COLUMNS:
        return ()
    groups = []
    for column in table:
        if column.role in (Role.CATEGORY, Role.YES_NO, Role.ORDERED) and 2 <= column.distinct <= _MOST_GROUPS:
            groups.append(grouping(column))
    values = [working.sample(column).values for column in columns]
    return relation_findings([c.name for c in columns], values, groups, row_name=table.name_of, progress=progress)


def _holm(p: Sequence[float | None]) -> list[float]:
    """``p`` adjusted by Holm; what has none counts as 1."""
    return [float(each) for each in holm(np.array([1.0 if each is None else each for each in p]))] if p else []


def _lost(x: str, y: str, lost: int, n: int) -> list[RelationFinding]:
    share = lost / (lost + n) if lost + n else 0.0
    if share <= _MOST_LOST:
        return []
    message = f"{x} and {y}: {per_cent(share)} of the rows have only one of the two values; n is {count(n)}."
    return [RelationFinding("lost", x, y, message)]


def _near_copy(pair: _Pair) -> list[RelationFinding]:
    if abs(_quick_r(*(_drawn_in(values, _ENDS[-1]) for values in (pair.a, pair.b)))) < _LIKELY_COPY:
        return []
    ranks = spearman(pair.a, pair.b).r
    if ranks is None or abs(ranks) < _NEAR_COPY or min(np.unique(pair.a).size, np.unique(pair.b).size) < _FEWEST:
        return []
    ends = f"Spearman {coefficients(ranks)[0]}, n {count(pair.rows.size)}"
    message = f"{pair.x} and {pair.y} are nearly the same measurement: {ends}."
    return [RelationFinding("near_copy", pair.x, pair.y, message)]


def _one_row(pair: _Pair, p: float, pairs: int, row_name: Callable[[int], str]) -> list[RelationFinding]:
    """The row without which a relation that holds is none, or which hides most of one that is there."""
    r = pair.r.r
    if r is None:
        return []
    n = pair.rows.size
    without = pearson_left_out(sums_of(pair.a, pair.b), pair.a, pair.b, np.arange(n))
    moves = np.where(np.isnan(without), 1.0, np.abs(r - without))
    worst = int(np.argmax(moves))
    if moves[worst] < _MOVES:
        return []
    left = np.arange(n) != worst
    rest = pearson(pair.a[left], pair.b[left])
    before, after = coefficients(r, rest.r)
    name = row_name(int(pair.rows[worst]))
    if rest.r is None or (p < LEVEL and rest.p is not None and rest.p >= LEVEL):
        end = "without it there is none" if rest.r is None else f"without it it is {after}, {p_value(rest.p)}"
        message = f"{name} alone makes the relation of {pair.x} and {pair.y}: r is {before}, {end} (n {count(n)})."
        return [RelationFinding("one_row", pair.x, pair.y, message, row=int(pair.rows[worst]))]
    lines = line_influence(pair.a, pair.b)
    if lines is None or rest.p is None or min(rest.p * pairs * n, 1.0) >= LEVEL:
        return []
    # How far off the line of all other rows it lies, tested over all rows of all pairs.
    t = float(lines.studentised[worst])
    deleted = t * np.sqrt((n - 3) / max(n - 2 - t * t, 1e-12))
    if 2 * float(stdtr(n - 3, -abs(deleted))) * n * pairs >= LEVEL:
        return []
    message = f"{name} alone moves r of {pair.x} and {pair.y} from {after} to {before} (n {count(n)})."
    return [RelationFinding("one_row", pair.x, pair.y, message, row=int(pair.rows[worst]))]


def _quick_r(a: Floats, b: Floats) -> float:
    """Pearson's r without care for its last digits, 0 where there is none: to see what is worth a closer look."""
    x, y = a - a.mean(), b - b.mean()
    squares = float(x @ x) * float(y @ y)
    return float(x @ y) / sqrt(squares) if isfinite(squares) and squares > 0 else 0.0


def _bends(pair: _Pair) -> tuple[list[_Candidate], int]:
    """Whether a square of one column tells more of the other than a line does; the surer of both directions."""
    found: list[_Candidate] = []
    for one, other, names in ((pair.a, pair.b, (pair.x, pair.y)), (pair.b, pair.a, (pair.y, pair.x))):
        # It has to show however far the ends are drawn in, so that no few values make it.
        bends = [_bend(one, other, share) for share in _ENDS]
        if any(bend is None for bend in bends):
            continue
        p = max(bend.p for bend in bends if bend is not None and bend.p is not None)
        first = bends[0]
        if first is None or first.r is None or first.r**2 < _LEAST_BEND:
            continue
        message = (
            f"{names[1]} {_shape(one, other, first.r)} {names[0]}: a bend accounts for {per_cent(first.r**2)} of what "
            f"the line leaves, which r ({coefficients(pair.r.r)[0]}) does not say (n {count(first.n)})."
        )
        found.append(_Candidate(min(2 * p, 1.0), RelationFinding("curve", pair.x, pair.y, message)))
    return sorted(found, key=lambda each: each.p)[:1], 1


def _bend(one: Floats, other: Floats, share: float) -> PairCorrelation | None:
    """The partial correlation of ``other`` with the square of ``one``; None where there is none."""
    a, b = _drawn_in(one, share), _drawn_in(other, share)
    middle = a - a.mean()
    square = middle * middle
    along, across, aside = _quick_r(a, square), _quick_r(b, square), _quick_r(a, b)
    rest = (1 - along * along) * (1 - aside * aside)
    # Most pairs have no bend worth working out with all digits.
    if not rest > 0 or (across - along * aside) ** 2 / rest < _LIKELY * _LEAST_BEND:
        return None
    if np.unique(a).size < _FEWEST_VALUES:
        return None
    found = partial_correlation(b, square, [a])
    return None if found.r is None or found.p is None else found


def _shape(one: Floats, other: Floats, bend: float) -> str:
    """What ``other`` does along ``one``, in words."""
    r, ranks = pearson(one, other).r or 0.0, spearman(one, other).r or 0.0
    if abs(ranks) < _LEAST_RISE:
        return f"has its {'lowest' if bend > 0 else 'highest'} values in the middle of"
    if r > 0:
        return f"rises ever {'faster' if bend > 0 else 'more slowly'} with"
    return f"falls ever {'more slowly' if bend > 0 else 'faster'} with"


def _drawn_in(values: Floats, share: float) -> Floats:
    """``values`` with that ``share`` at either end, at least one of them, drawn in to the next."""
    ordered = np.sort(values)
    beyond = max(int(share * values.size), 1)
    return np.clip(values, ordered[beyond], ordered[values.size - 1 - beyond])


def _turns(pair: _Pair, groups: Sequence[Grouping]) -> tuple[list[_Candidate], int]:
    """Groups within which the sign is the other one, on the whole."""
    found: list[_Candidate] = []
    tried = 0
    if pair.r.r is None or pair.r.p is None:
        return found, tried
    for group in groups:
        if group.by in (pair.x, pair.y):
            continue
        codes = group.codes[pair.rows]
        used = codes >= 0
        sizes = np.bincount(codes[used], minlength=len(group.names))
        if np.count_nonzero(sizes) < 2 or used.sum() < 2 * _FEWEST + np.count_nonzero(sizes):
            continue
        tried += 1
        a, b = (_within(each[used], codes[used], sizes) for each in (pair.a, pair.b))
        rough = _quick_r(a, b), _quick_r(pair.a[used], pair.b[used])
        if rough[0] * rough[1] >= 0 or min(map(abs, rough)) < _LIKELY * _LEAST_TURN:
            continue
        within, pooled = pearson(a, b), pearson(pair.a[used], pair.b[used])
        if within.r is None or pooled.r is None or within.p is None or pooled.p is None:
            continue
        if within.r * pooled.r < 0 and min(abs(within.r), abs(pooled.r)) >= _LEAST_TURN:
            whole, inside = coefficients(pooled.r, within.r)
            message = (
                f"{pair.x} and {pair.y}: r is {whole} over all rows, but {inside} within {group.by} "
                f"(n {count(pooled.n)}, {np.count_nonzero(sizes)} groups)."
            )
            finding = RelationFinding("reversal", pair.x, pair.y, message, by=group.by)
            found.append(_Candidate(max(within.p, pooled.p), finding))
    return found, tried


def _within(values: Floats, codes: Ints, sizes: Ints) -> Floats:
    """``values`` less the mean of their group."""
    with np.errstate(invalid="ignore", divide="ignore"):
        means = np.bincount(codes, values, minlength=sizes.size) / sizes
    return np.asarray(values - means[codes])
