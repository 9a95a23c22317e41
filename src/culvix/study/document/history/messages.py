"""Acts as a history tells them: what, which column, which row or how many, from what to what, and why."""

from collections.abc import Sequence

from culvix.stats.display import as_typed, count, plural
from culvix.study.document.decisions import Cause, Decision, DecisionKind
from culvix.study.document.history.history import Act
from culvix.tables.model.table import Table

__all__ = ["act_text", "acts_between"]


def act_text(table: Table, act: Act) -> str:
    """``act`` in one line; decisions carry their cause and reason."""
    if not act.decisions:
        return act.label
    first = act.decisions[0]
    what = _single(table, first) if len(act.decisions) == 1 and first.rows.size == 1 else act.label
    why = [str(first.cause)] if first.cause is not Cause.UNKNOWN else []
    why += [f"“{first.reason}”"] if first.reason else []
    return f"{what}{': ' if why else ''}{', '.join(why)}"


def _single(table: Table, decision: Decision) -> str:
    """A decision on one value, with the value and what becomes of it."""
    row = int(decision.rows[0])
    where = f"row {count(table.number_of(row))}"
    if not decision.column or decision.column not in table:
        return f"{decision.text} {where}"
    cell = table[decision.column].cell(row) or "empty"
    if decision.kind is DecisionKind.CORRECT:
        return f"{decision.column} {cell} → {_corrected(table, decision, row)} in {where}"
    return f"{decision.text} {decision.column} {cell}, {where}"


def _corrected(table: Table, decision: Decision, row: int) -> str:
    if decision.swapped is not None and decision.swapped in table:
        other = table[decision.swapped].cell(row) or "empty"
        return f"{other}, exchanged with {decision.swapped}"
    values = {name: table[name].sample.values for name in decision.columns if table[name].values is not None}
    if decision.column not in values and decision.value is None:
        return decision.text
    return as_typed(float(decision.corrected(decision.column, values)[0]), 6)


def acts_between(acts: Sequence[Act]) -> str:
    """How many decisions and other acts there are: "3 decisions and 1 setting"."""
    decisions = sum(bool(act.decisions) for act in acts)
    others = len(acts) - decisions
    parts = [plural(decisions, "decision")] if decisions else []
    parts += [plural(others, "other act")] if others else []
    return " and ".join(parts)
