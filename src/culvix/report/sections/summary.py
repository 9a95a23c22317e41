"""The first page: what the table is, what is wrong with it, what was decided, and what came of it."""

from collections.abc import Iterator

from culvix.report.context import (
    ReportContext,
    coefficient_figure,
    number_figure,
    share_figure,
    signed_figure,
    whole_figure,
)
from culvix.report.parts import Listing, Paragraph, Part, Text, joined
from culvix.stats.display import plural
from culvix.study.document.decisions import DecisionKind
from culvix.study.relations.pair_analysis import analyse_pair
from culvix.study.relations.ranking import RankedPair, Relations
from culvix.tables.model.table import Role

__all__ = ["summary"]

_NAMED = 4
_FAR_FROM_NORMAL = 1.0
"""Skewness beyond which a column is called skewed on the first page."""
_MOVES = 0.1
"""By how much a coefficient changes without flagged rows before the first page warns of it."""


def summary(context: ReportContext, level: str) -> Iterator[Part]:
    """Five to ten sentences, or those the analyst put in their place."""
    if context.layout.summary:
        yield Listing(tuple((sentence,) for sentence in context.layout.summary))
        return
    made = [_table, _gaps, _doubts, _trust, _decisions, _difference, _shapes, _relation, _open]
    sentences = [sentence for make in made for sentence in make(context)]
    if level == "line":
        yield Paragraph(joined(sentences[:1] + sentences[-1:], " "))
        return
    yield Listing(tuple(sentences))


def _names(names: list[str], most: int = _NAMED) -> str:
    more = len(names) - most
    listed = ", ".join(names[:most])
    return f"{listed} and {plural(more, 'other')}" if more > 0 else listed


def _table(context: ReportContext) -> Iterator[Text]:
    table, used = context.workspace.table, context.workspace.working.rows_used
    roles = [
        (whole_figure(f"columns/{role}", number), f" {role.named(number)}") for role, number in context.quality.roles
    ]
    in_use: Text = ("all in use",)
    if used < table.rows:
        in_use = (whole_figure("rows_used", used), " of them in use")
    yield (
        "The table has ",
        whole_figure("rows", table.rows),
        " rows, ",
        *in_use,
        ", and ",
        whole_figure("columns", len(table.columns)),
        " columns: ",
        *joined(roles),
        ".",
    )


def _gaps(context: ReportContext) -> Iterator[Text]:
    found, rows = context.quality, context.workspace.table.rows
    gaps = found.missing + found.unread
    if not gaps:
        yield ("No cell is missing or unread.",)
        return
    worst = [(f"{name} ", share_figure(f"column/{name}/gap", lost, rows)) for name, lost in found.costliest]
    complete: Text = (whole_figure("complete_rows", found.complete), " rows are complete.")
    yield (
        share_figure("gaps", gaps, found.cells, 2),
        " of all cells are missing (",
        whole_figure("missing", found.missing),
        ") or could not be read (",
        whole_figure("unread", found.unread),
        "), most in ",
        *joined(worst),
        "; ",
        *complete,
    )


def _doubts(context: ReportContext) -> Iterator[Text]:
    repeated = context.quality.repeated
    if repeated:
        words = "row repeats an earlier one" if repeated == 1 else "rows repeat earlier ones"
        yield (whole_figure("repeated_rows", repeated), f" {words} in every cell.")


def _trust(context: ReportContext) -> Iterator[Text]:
    document, numeric = context.workspace.document, context.workspace.table.numeric
    if not numeric:
        return
    asked = {each.finding.column for each in context.questions}
    reviewed = [column.name for column in numeric if column.name in document.reviewed]
    ready = [name for name in reviewed if name not in asked]
    grave = list(dict.fromkeys(each.finding.column for each in context.questions if each.finding.grave))
    sentence: Text = (
        whole_figure("reviewed", len(reviewed)),
        " of ",
        whole_figure("numeric_columns", len(numeric)),
        " numeric columns " + ("has" if len(reviewed) == 1 else "have") + " been reviewed",
    )
    if ready:
        sentence += (", ", whole_figure("without_questions", len(ready)), " of them with no question left open")
    yield (*sentence, ".")
    if grave:
        yield (f"Figures of {_names(grave)} should wait: they hold values that are probably errors and undecided.",)


def _decisions(context: ReportContext) -> Iterator[Text]:
    workspace = context.workspace
    decisions = workspace.document.decisions
    if not decisions:
        yield ("No decision was made: every figure describes the values as imported.",)
        return
    working = workspace.working
    excluded = sum(int(working.excluded(c.name).size) for c in workspace.table.numeric)
    corrected = sum(int(working.corrected(c.name).rows.size) for c in workspace.table.numeric)
    rows_out = int(working.rows_out.size)
    kept = sum(int(each.rows.size) for each in decisions if each.kind is DecisionKind.KEEP)
    yield (
        whole_figure("decisions", len(decisions)),
        " decisions stand: " if len(decisions) > 1 else " decision stands: ",
        whole_figure("values_excluded", excluded),
        " values out of use",
        *((" (", whole_figure("rows_excluded", rows_out), " whole rows among them)") if rows_out else ()),
        ", ",
        whole_figure("values_corrected", corrected),
        " corrected, ",
        whole_figure("values_kept", kept),
        " looked at and kept.",
    )
    unsaid = sum(1 for each in decisions if not each.reason.strip())
    if unsaid:
        yield (whole_figure("decisions_without_reason", unsaid), " of these decisions have no reason written down.")


def _difference(context: ReportContext) -> Iterator[Text]:
    found = context.differences
    if not found:
        return
    first = found[0]
    name = first.column.name
    unit = f" {first.column.unit}" if first.column.unit else ""
    yield (
        f"What was decided matters most for {name}: its mean goes from ",
        number_figure(f"column/{name}/mean/imported", first.before.mean, first.style),
        " to ",
        number_figure(f"column/{name}/mean", first.after.mean, first.style),
        f"{unit}, its SD from ",
        number_figure(f"column/{name}/sd/imported", first.before.sd, first.style),
        " to ",
        number_figure(f"column/{name}/sd", first.after.sd, first.style),
        f"{unit} (n = ",
        whole_figure(f"column/{name}/n", first.after.n),
        ").",
    )


def _shapes(context: ReportContext) -> Iterator[Text]:
    measures = [each for each in context.analyses.values() if each.column.role is Role.MEASURE and each.sample.n]
    if not measures:
        return
    skewed = [
        each
        for each in measures
        if each.description.skewness is not None and abs(each.description.skewness) > _FAR_FROM_NORMAL
    ]
    if not skewed:
        yield ("No measure is strongly skewed (skewness G1 between −1 and +1 in each).",)
        return
    listed = [
        (
            f"{each.column.name} (",
            signed_figure(f"column/{each.column.name}/skewness", each.description.skewness, 2),
            ")",
        )
        for each in sorted(skewed, key=lambda each: -abs(each.description.skewness or 0.0))[:_NAMED]
    ]
    more = len(skewed) - len(listed)
    others = f" and {plural(more, 'other')}" if more > 0 else ""
    yield (
        whole_figure("skewed_measures", len(skewed)),
        " of ",
        whole_figure("measures", len(measures)),
        f" measures {'is' if len(skewed) == 1 else 'are'} strongly skewed; there the median says more than the mean: ",
        *joined(listed),
        f"{others}.",
    )


def _relation(context: ReportContext) -> Iterator[Text]:
    found = context.relations
    if not isinstance(found, Relations) or not found.pairs:
        return
    best = found.pairs[0]
    yield _strongest(context, best)


def _strongest(context: ReportContext, best: RankedPair) -> Text:
    pair = analyse_pair(context.analyses[best.x], context.analyses[best.y])
    kind = pair.suggestion.kind
    whole, clean = pair.view.with_flagged[kind], pair.view.without_flagged[kind]
    key = f"pair/{best.x}/{best.y}/{kind}"
    sentence: Text = (
        f"The strongest relation is that of {best.x} and {best.y}: {kind.capitalize()} ",
        coefficient_figure(key, whole.r),
        " (n = ",
        whole_figure(f"{key}/n", whole.n),
        ")",
    )
    if whole.r is None or clean.r is None or abs(whole.r - clean.r) < _MOVES:
        return (*sentence, ".")
    return (*sentence, "; without flagged rows it is ", coefficient_figure(f"{key}/without_flags", clean.r), ".")


def _open(context: ReportContext) -> Iterator[Text]:
    asked, about_table = context.questions, context.about_table
    if not asked and not about_table:
        yield ("No question is open.",)
        return
    columns = len({each.finding.column for each in asked})
    yield (
        "Still open: ",
        whole_figure("open_questions", len(asked)),
        " questions about ",
        whole_figure("columns_with_questions", columns),
        " columns and ",
        whole_figure("open_about_table", len(about_table)),
        " about the table.",
    )
