"""Decisions made on a sample as conditions on the whole, by rule or by key, and how many of its rows meet each."""

import re
from dataclasses import dataclass, replace
from math import inf

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.display import count, plural
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.decisions import Decision, DecisionKind
from culvix.study.document.history.shared_sequence import SharedSequence
from culvix.study.document.rules import Rule
from culvix.study.whole.column_figures import ColumnOfWhole
from culvix.study.whole.survey import WholeSurvey
from culvix.tables.engines.edits import KeysWhere, NumbersWhere, RowCount, Where
from culvix.tables.engines.engine import Engine, Kind

__all__ = ["DecisionOnWhole", "codes_in_whole", "codes_of", "column_of_whole", "conditions_of", "count_decisions"]

_NUMBER = re.compile(r"[-+]?\d+(\.\d+)?([eE][-+]?\d+)?")
_MOST_KEYS = 10_000


@dataclass(frozen=True)
class DecisionOnWhole:
    """A ``decision`` that was made on ``sampled`` rows, and of which rows of the whole it holds.

    Without a condition for these, ``why`` says what keeps it from being one; ``rows`` of the whole meet it, None before
    they are counted.
    """

    decision: Decision
    where: Where | None
    why: str = ""
    rows: int | None = None

    @property
    def sampled(self) -> int:
        """How many rows of the sample it was made on."""
        return int(self.decision.rows.size)

    @property
    def sentence(self) -> str:
        """In words: what it does to the whole."""
        kind = str(self.decision.kind)
        if self.where is None or self.rows is None:
            return f"{kind}, {self.decision.column or 'whole rows'}: {self.why}"
        return f"{kind} where {self.where.words}: {plural(self.rows, 'row')} of the whole"


def conditions_of(workspace: Workspace) -> tuple[DecisionOnWhole, ...]:
    """The decisions of a study in their order, each with its condition or why there is none."""
    return tuple(_condition(workspace, decision) for decision in workspace.document.decisions)


def codes_of(workspace: Workspace, name: str) -> tuple[float, ...]:
    """The numbers that stand for a missing value in a column, also those said to that no row of the sample has."""
    column = workspace.table[name]
    declared = (*column.table_codes, *workspace.document.dictionary.of(name).missing_codes)
    found, codes = (
        [float(text) for text in map(str.strip, texts) if _NUMBER.fullmatch(text)]
        for texts in (column.missing_by, declared)
    )
    # What stands in the sample as a number is one, however a code is written.
    numbers = column.sample.sorted if column.is_numeric else np.zeros(0)
    return tuple(dict.fromkeys((*found, *(code for code in codes if code not in numbers))))


def codes_in_whole(survey: WholeSurvey, workspace: Workspace, name: str) -> tuple[float, ...]:
    """Those of them that may be among the numbers of the whole, where they are numbers like others."""
    column = survey.of(name)
    numbers = None if column is None else column.numbers
    if numbers is None or numbers.low is None or numbers.high is None:
        return ()
    return tuple(code for code in codes_of(workspace, name) if numbers.low <= code <= numbers.high)


def column_of_whole(survey: WholeSurvey, workspace: Workspace, name: str) -> ColumnOfWhole | None:
    """The column of the whole, where its cells mean there what they mean in the study."""
    if name not in workspace.table or not workspace.table[name].is_numeric or codes_in_whole(survey, workspace, name):
        return None
    return survey.of(name) if workspace.table[name].derivation is None else None


def _condition(workspace: Workspace, decision: Decision) -> DecisionOnWhole:
    if decision.rule is None or not decision.column:
        return _by_key(workspace, decision)
    where = _by_rule(workspace, decision, decision.rule)
    if isinstance(where, str):
        return DecisionOnWhole(decision, None, where)
    if not _holds(workspace, decision, where):
        return DecisionOnWhole(decision, None, "its rule means other rows of the sample by now; make it again")
    return DecisionOnWhole(decision, where)


def _holds(workspace: Workspace, decision: Decision, where: NumbersWhere) -> bool:
    """Whether it was made on all rows of the sample that the condition means, but for those decided on otherwise."""
    values = workspace.table[decision.column].values
    if values is None:
        return False
    inside = np.isfinite(values)
    inside &= (values >= (-inf if where.low is None else where.low)) & (
        values <= (inf if where.high is None else where.high)
    )
    met = np.flatnonzero(inside if where.inside else np.isfinite(values) & ~inside)
    others = [
        each.rows
        for each in workspace.document.decisions
        if each is not decision and (decision.column in each.columns or each.kind is DecisionKind.EXCLUDE_ROW)
    ]
    left = np.setdiff1d(met, decision.rows, assume_unique=True)
    return bool(np.isin(decision.rows, met).all() and np.isin(left, np.concatenate([*others, left[:0]])).all())


def _by_key(workspace: Workspace, decision: Decision) -> DecisionOnWhole:
    table = workspace.table
    key = tuple(name for name in table.key if name in table)
    if not key or key != table.key:
        return DecisionOnWhole(decision, None, "it was made on rows of the sample, and no column names a row")
    if decision.rows.size > _MOST_KEYS:
        return DecisionOnWhole(decision, None, f"it was made on more than {count(_MOST_KEYS)} single rows")
    cells = zip(*(table[name].text.gather(decision.rows).to_list() for name in key), strict=True)
    named = tuple(tuple(str(cell) for cell in row) for row in cells if None not in row)
    if len(named) < decision.rows.size:
        return DecisionOnWhole(decision, None, f"it was made on rows without {' or '.join(key)}")
    return DecisionOnWhole(decision, KeysWhere(key, named))


def _by_rule(workspace: Workspace, decision: Decision, rule: Rule) -> NumbersWhere | str:
    """The numbers that a rule means, or why they cannot be told."""
    codes = codes_of(workspace, decision.column)
    if rule.kind == "between":
        return NumbersWhere(decision.column, rule.low, rule.high, codes=codes)
    if rule.kind != "flagged" or rule.method is None:
        return "several methods have to agree on it, which is no one condition"
    column = workspace.table[decision.column]
    at_the_time = _in_pass(workspace, decision.pass_number)
    result = at_the_time.analysis(column.name).flags.results.get(rule.method) if column.is_numeric else None
    if result is None or result.groups or (result.lower is None and result.upper is None):
        return "its method gives no limits that hold for all rows"
    return NumbersWhere(decision.column, result.lower, result.upper, inside=False, codes=codes)


def _in_pass(workspace: Workspace, number: int) -> Workspace:
    """The study as it stood when a pass over the data began: flags refer to the values of then."""
    document = workspace.document
    if number == document.pass_number:
        return workspace
    passes = document.passes[: number - 1]
    before = SharedSequence(document.decisions[: passes[-1] if passes else 0])
    return workspace.with_document(replace(document, passes=passes, decisions=before))


def count_decisions(engine: Engine, workspace: Workspace, progress: Progress = silent) -> tuple[DecisionOnWhole, ...]:
    """The decisions of a study, with how many rows of the table that ``engine`` holds meet each one's condition.

    Each is counted by itself, whatever others do to the same rows. Raises what ``engine`` and ``progress`` raise.
    """
    found = [_on_columns_of(engine, each) for each in conditions_of(workspace)]
    asked = {RowCount(each.where): None for each in found if each.where is not None}
    answers = engine.answer(tuple(asked), progress) if asked else {}
    counted = []
    for each in found:
        rows = None if each.where is None else answers[RowCount(each.where)]
        counted.append(_with_rows(each, rows) if isinstance(rows, int) else each)
    return tuple(counted)


def _with_rows(found: DecisionOnWhole, rows: int) -> DecisionOnWhole:
    """The decision with the ``rows`` of the whole that it means; keys that name other rows besides are none."""
    if isinstance(found.where, KeysWhere) and rows != found.sampled:
        named = ", ".join(found.where.columns)
        why = f"{named} names {plural(rows, 'row')} of the whole where {count(found.sampled)} are meant"
        return replace(found, where=None, why=why)
    return replace(found, rows=rows)


def _on_columns_of(engine: Engine, found: DecisionOnWhole) -> DecisionOnWhole:
    """The decision, without its condition where the whole has no such columns."""
    if found.where is None:
        return found
    kinds = {column.name: column.kind for column in engine.columns}
    keys = found.where.columns if isinstance(found.where, KeysWhere) else ()
    there = all(kinds.get(name, Kind.OTHER) is not Kind.OTHER for name in keys)
    if there and all(kinds.get(name, Kind.OTHER).has_numbers for name in found.decision.columns):
        return found
    return replace(found, where=None, why="the whole has no such columns")
