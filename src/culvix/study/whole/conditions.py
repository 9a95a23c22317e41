"""Decisions made by rule on a sample as conditions on the whole, and how many of its rows each of them meets."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import inf

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.display import as_typed, plural
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.decisions import Decision
from culvix.study.document.rules import Rule
from culvix.tables.engines.engine import Engine
from culvix.tables.engines.requests import CountsBelow, Extent, NumberExtent, Request

__all__ = ["Condition", "DecisionOnWhole", "conditions_of", "count_decisions"]


@dataclass(frozen=True)
class Condition:
    """Numbers of ``column`` from ``low`` to ``high``, or those outside of that; None leaves an end open."""

    column: str
    low: float | None
    high: float | None
    inside: bool

    @property
    def words(self) -> str:
        """The condition in words."""
        low, high = (None if end is None else as_typed(end) for end in (self.low, self.high))
        if self.inside:
            parts = (f"from {low}" if low else "", f"up to {high}" if high else "")
            return f"{self.column} {' '.join(part for part in parts if part)}"
        parts = (f"below {low}" if low else "", f"above {high}" if high else "")
        return f"{self.column} {' or '.join(part for part in parts if part)}"

    @property
    def edges(self) -> tuple[float, ...]:
        """Below which it is to be counted."""
        # The upper end belongs to what lies between, and so is none of what lies outside.
        ends = (self.low, None if self.high is None else float(np.nextafter(self.high, inf)))
        return tuple(end for end in ends if end is not None)

    def count(self, n: int, below: tuple[int, ...]) -> int:
        """How many of ``n`` numbers meet it, where so many lie ``below`` each of `edges`."""
        left = iter(below)
        under = next(left) if self.low is not None else 0
        up_to = next(left) if self.high is not None else n
        return up_to - under if self.inside else n - (up_to - under)


@dataclass(frozen=True)
class DecisionOnWhole:
    """A ``decision`` that was made on ``sampled`` rows, and the ``condition`` by which it holds for the whole.

    Without one, ``why`` says what keeps it from being one; ``rows`` of the whole meet it, None before they are counted.
    """

    decision: Decision
    condition: Condition | None
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
        if self.condition is None or self.rows is None:
            return f"{kind}, {self.decision.column or 'whole rows'}: {self.why}"
        return f"{kind} where {self.condition.words}: {plural(self.rows, 'row')} of the whole"


def conditions_of(workspace: Workspace) -> tuple[DecisionOnWhole, ...]:
    """The decisions of a study in their order, each with its condition or why there is none."""
    return tuple(_conditions(workspace))


def _conditions(workspace: Workspace) -> Iterator[DecisionOnWhole]:
    for decision in workspace.document.decisions:
        if decision.rule is None or not decision.column:
            yield DecisionOnWhole(decision, None, "it was made on rows of the sample, not by a rule")
        elif decision.rule.kind == "between":
            rule = decision.rule
            yield DecisionOnWhole(decision, Condition(decision.column, rule.low, rule.high, inside=True))
        else:
            yield _flagged(workspace, decision, decision.rule)


def _flagged(workspace: Workspace, decision: Decision, rule: Rule) -> DecisionOnWhole:
    if rule.kind != "flagged" or rule.method is None:
        return DecisionOnWhole(decision, None, "several methods have to agree on it, which is no one condition")
    column = workspace.table[decision.column]
    result = workspace.analysis(column.name).flags.results.get(rule.method) if column.is_numeric else None
    if result is None or result.groups or (result.lower is None and result.upper is None):
        return DecisionOnWhole(decision, None, "its method gives no limits that hold for all rows")
    return DecisionOnWhole(decision, Condition(decision.column, result.lower, result.upper, inside=False))


def count_decisions(engine: Engine, workspace: Workspace, progress: Progress = silent) -> tuple[DecisionOnWhole, ...]:
    """The decisions of a study, with how many rows of the table that ``engine`` holds meet each one's condition.

    Each is counted by itself, whatever others do to the same rows. Raises what ``engine`` and ``progress`` raise.
    """
    known = {column.name for column in engine.columns if column.kind.has_numbers}
    found, asked = [], dict[Request, None]()
    for each in conditions_of(workspace):
        condition = each.condition
        if condition is not None and condition.column not in known:
            each = replace(each, condition=None, why="the whole has no such column of numbers")
        elif condition is not None:
            asked |= {Extent(condition.column): None, CountsBelow(condition.column, condition.edges): None}
        found.append(each)
    answers = engine.answer(tuple(asked), progress) if asked else {}
    counted = []
    for each in found:
        condition = each.condition
        if condition is None:
            counted.append(each)
            continue
        extent, below = answers[Extent(condition.column)], answers[CountsBelow(condition.column, condition.edges)]
        assert isinstance(extent, NumberExtent) and isinstance(below, tuple)
        counts = tuple(many for many in below if isinstance(many, int))
        counted.append(replace(each, rows=condition.count(extent.n, counts)))
    return tuple(counted)
