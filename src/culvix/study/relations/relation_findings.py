"""What to be careful of in the relations of a table: pairs whose coefficient does not say what it seems to.

Each kind of finding is tested over all pairs, p adjusted by Holm (1979): in tables of unrelated columns each is raised
falsely in at most `LEVEL` of them, as far as the tests behind it hold.
"""

from collections.abc import Callable, Sequence
from itertools import combinations

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.correlation.pearson import pearson
from culvix.stats.resampling.multiple_testing import holm
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.relations.finding import FEWEST_ROWS, KINDS, LEVEL, Candidate, PairRows, RelationFinding
from culvix.study.relations.group_rules import turns_within
from culvix.study.relations.row_rules import lost_rows, near_copy, one_row
from culvix.study.relations.shape_rules import bends, in_part, uneven_spread
from culvix.tables.model.table import Role, Table

__all__ = ["MOST_COLUMNS", "NOT_SEARCHED", "findings_of_table", "relation_findings"]

MOST_COLUMNS = 60
"""With more columns than this pairs are not looked through: it would take minutes."""
NOT_SEARCHED = f"Pairs of more than {MOST_COLUMNS} columns are not looked through for what to note."

_ONLY_RELATED = ("spread",)
"""Kinds of findings that tell nothing of columns without a relation."""
_MOST_GROUPS = 12
"""Categories within which signs are looked at have at most so many levels."""


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
        plain += lost_rows(names[i], names[j], int(lost), rows.size)
        if rows.size >= FEWEST_ROWS:
            a, b = columns[i][rows], columns[j][rows]
            pairs.append(PairRows(names[i], names[j], rows, a, b, pearson(a, b)))
    related = _holm([pair.r.p for pair in pairs])
    rules: dict[str, Callable[[PairRows], tuple[list[Candidate], int]]] = {
        "curve": bends,
        "reversal": lambda each: turns_within(each, groups),
        "part": in_part,
        "spread": uneven_spread,
    }
    found: dict[str, list[Candidate]] = {kind: [] for kind in rules}
    tried = dict.fromkeys(rules, 0)
    for position, (pair, p) in enumerate(zip(pairs, related, strict=True)):
        progress(position / len(pairs), f"looking at {pair.x} and {pair.y}")
        plain += near_copy(pair)
        plain += one_row(pair, p, len(pairs), row_name)
        for kind, details in rules.items():
            if kind in _ONLY_RELATED and p >= LEVEL:
                continue
            candidates, looked = details(pair)
            found[kind] += candidates
            tried[kind] += looked
    for kind, candidates in found.items():
        plain += _that_hold(candidates, tried[kind])
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


def _that_hold(candidates: Sequence[Candidate], tried: int) -> list[RelationFinding]:
    """The findings that stand when p is adjusted for all that were ``tried``, the too small ones too."""
    adjusted = _holm([*(each.p for each in candidates), *[1.0] * (tried - len(candidates))])
    return [each.finding for each, p in zip(candidates, adjusted, strict=False) if p < LEVEL]


def _holm(p: Sequence[float | None]) -> list[float]:
    """``p`` adjusted by Holm; what has none counts as 1."""
    return [float(each) for each in holm(np.array([1.0 if each is None else each for each in p]))] if p else []
