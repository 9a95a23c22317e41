"""What was decided about values and rows: by whom, why, flagged by which methods, and what it changed."""

from collections.abc import Iterator

import numpy as np

from culvix.report.context import ReportContext, number_figure, signed_figure, whole_figure
from culvix.report.parts import Cell, Figure, Head, Paragraph, Part, TableBlock
from culvix.stats.core.arrays import Ints
from culvix.stats.display import count, plural
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.outliers.chance_flags import chance_flags, few_digits
from culvix.study.document.decisions import Decision, DecisionKind

__all__ = ["decisions"]

_MOST_ROWS = {"line": 0, "short": 6, "full": 200}
NO_REASON = "no reason given"


def decisions(context: ReportContext, level: str) -> Iterator[Part]:
    """Decisions that change something, what was looked at and kept, and the difference they make."""
    made = list(enumerate(context.workspace.document.decisions, start=1))
    passes = context.workspace.document.pass_number
    if not made:
        yield Paragraph(("No decision was made: every figure describes the values as imported.",))
        return
    yield Paragraph((_passes(passes),))
    changing = [(number, each) for number, each in made if each.kind is not DecisionKind.KEEP]
    kept = [(number, each) for number, each in made if each.kind is DecisionKind.KEEP]
    if level == "line":
        unit = " decisions changed values" if len(changing) != 1 else " decision changed values"
        yield Paragraph(
            (whole_figure("decisions/changing", len(changing)), f"{unit}, {plural(len(kept), 'decision')} kept them.")
        )
    else:
        if changing:
            yield _table(context, "What was changed or left out", changing, level)
        if kept:
            yield _table(context, "What was looked at and kept", kept, level)
    if context.differences:
        yield _differences(context)
    yield from _by_chance(context) if level != "line" else ()


def _passes(passes: int) -> str:
    if passes == 1:
        return "Values were flagged in one pass over the data as imported."
    return (
        f"Values were flagged in {count(passes)} passes: from the second on, among the values that were left in use "
        "before it. Repeated passes flag more values than one does."
    )


def _table(context: ReportContext, name: str, made: list[tuple[int, Decision]], level: str) -> TableBlock:
    heads = (
        "No.",
        "Column",
        "Decision",
        "Rows: as imported → as decided",
        "Flagged by",
        "Cause and reason",
        "Who, when",
    )
    rows = tuple(_row(context, position, decision, _MOST_ROWS[level]) for position, decision in made)
    return TableBlock(name, tuple(Head(head) for head in heads), rows, wide=(2, 3, 4, 5))


def _row(context: ReportContext, position: int, decision: Decision, most: int) -> tuple[Cell, ...]:
    what = decision.text if decision.rule is None else f"{decision.text}: {decision.rule.text}"
    reason = decision.reason.strip() or NO_REASON
    who = f"{decision.by}, " if decision.by else ""
    values: Cell = (whole_figure(f"decision/{position}/rows", int(decision.rows.size)), " in all: ")
    return (
        (str(position),),
        (decision.column or "whole rows",),
        (what,),
        (*values, *_cells(context, decision, most)),
        (_flagged_by(context, decision),),
        (f"{decision.cause}: {reason}",),
        (f"{who}{decision.at:%Y-%m-%d}",),
    )


def _cells(context: ReportContext, decision: Decision, most: int) -> Cell:
    """The first rows by name, with what stood in them and what stands there now; of a swap, both columns."""
    table, working = context.workspace.table, context.workspace.working
    listed = []
    for row in decision.rows[:most].tolist():
        parts = []
        for name in decision.columns:
            column = table[name]
            text = column.cell(row) or "empty"
            if decision.kind is DecisionKind.CORRECT:
                now = float(working.sample(column).values[row])
                text += f" → {context.analyses[name].style.value(now)}" if np.isfinite(now) else ""
            parts.append(text if len(decision.columns) == 1 else f"{name} {text}")
        named = context.workspace.table.name_of(row)
        listed.append(f"{named}: {', '.join(parts)}" if parts else named)
    more = int(decision.rows.size) - len(listed)
    if more and listed:
        listed.append(f"and {count(more)} more")
    return ("; ".join(listed),)


def _flagged_by(context: ReportContext, decision: Decision) -> str:
    """How many of its values each method flags that counts."""
    analysis = context.analyses.get(decision.column)
    if analysis is None:
        return ""
    size = int(decision.rows.size)
    found = {key: _common(result.rows, decision.rows) for key, result in analysis.flags.results.items()}
    by = [
        OUTLIER_METHODS[key].name + (f" ({count(number)} of {count(size)})" if number < size else "")
        for key, number in found.items()
        if number
    ]
    return ", ".join(by) or "none"


def _common(one: Ints, other: Ints) -> int:
    return int(np.isin(one, other).sum())


def _differences(context: ReportContext) -> TableBlock:
    """Each decided column with everything kept, and as decided."""
    heads = (Head("Column"), Head("State"), *(Head(name, True) for name in ("n", "Mean", "Median", "SD")))
    heads += (Head("Skewness G1", True), Head("Excess kurtosis G2", True))
    rows = []
    for each in context.differences:
        for state, figures, mark in (("as imported", each.before, "/imported"), ("as decided", each.after, "")):
            key = f"column/{each.column.name}"
            rows.append(
                (
                    (each.column.name if mark else "",),
                    (state,),
                    (whole_figure(f"{key}/n{mark}", figures.n),),
                    (number_figure(f"{key}/mean{mark}", figures.mean, each.style),),
                    (number_figure(f"{key}/median{mark}", figures.median, each.style),),
                    (number_figure(f"{key}/sd{mark}", figures.sd, each.style),),
                    (signed_figure(f"{key}/skewness{mark}", figures.skewness, 2),),
                    (signed_figure(f"{key}/excess_kurtosis{mark}", figures.excess_kurtosis, 2),),
                )
            )
    return TableBlock("What the decisions changed", heads, tuple(rows))


def _by_chance(context: ReportContext) -> Iterator[Part]:
    """What each method flags in the decided columns, beside what it flags in a normal column of that n."""
    names = dict.fromkeys(name for each in context.workspace.document.decisions for name in each.columns)
    rows = []
    for name in names:
        analysis = context.analyses.get(name)
        for key, result in analysis.flags.results.items() if analysis is not None else ():
            if not result.applies:
                continue
            expected = chance_flags(key, result.n, context.workspace.settings, column=name)
            chance: Cell = ("not known",)
            if expected is not None:
                chance = (Figure(f"column/{name}/flags/{key}/by_chance", expected, few_digits(expected)),)
            flagged = whole_figure(f"column/{name}/flags/{key}", int(result.rows.size))
            rows.append(((name,), (OUTLIER_METHODS[key].name,), (flagged,), chance))
    if rows:
        heads = (
            Head("Column"),
            Head("Method"),
            Head("Values flagged", True),
            Head("Of a normal column", True),
        )
        yield TableBlock("Flags, and what chance alone would give", heads, tuple(rows))
