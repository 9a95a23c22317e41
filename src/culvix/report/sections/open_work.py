"""What was not reviewed, and which questions nobody has answered yet."""

from collections import Counter
from collections.abc import Iterator

from culvix.report.context import ReportContext, whole_figure
from culvix.report.parts import Listing, Paragraph, Part, Text

__all__ = ["open_work"]


def open_work(context: ReportContext, level: str) -> Iterator[Part]:
    """The columns nobody reviewed, then open questions, those first that are probably errors."""
    document = context.workspace.document
    unreviewed = [column.name for column in context.workspace.table.numeric if column.name not in document.reviewed]
    if unreviewed:
        yield Paragraph(
            (whole_figure("unreviewed", len(unreviewed)), f" numeric columns not reviewed: {', '.join(unreviewed)}.")
            if level != "line"
            else (whole_figure("unreviewed", len(unreviewed)), " numeric columns were not reviewed.")
        )
    elif context.workspace.table.numeric:
        yield Paragraph(("Every numeric column has been reviewed.",))
    asked = context.questions
    if not asked and not context.about_table:
        yield Paragraph(("No question is open.",))
        return
    yield Paragraph((whole_figure("open_questions", len(asked) + len(context.about_table)), " questions are open."))
    about_table: list[Text] = [(f"The table: {each.evidence}",) for each in context.about_table]
    if level == "line":
        return
    yield Listing((*about_table, *(_by_column(context) if level == "short" else _each(context))))


def _each(context: ReportContext) -> list[Text]:
    """Every question in full, those first that are probably errors."""
    return [(f"{each.finding.column}: {each.finding.sentence}",) for each in context.questions]


def _by_column(context: ReportContext) -> list[Text]:
    """How many questions each column has: they stand with it."""
    asked = Counter(each.finding.column for each in context.questions)
    grave = Counter(each.finding.column for each in context.questions if each.finding.grave)
    lines: list[Text] = []
    for name, number in asked.items():
        key = f"column/{name}/open"
        line: Text = (f"{name}: ", whole_figure(key, number), " questions" if number > 1 else " question")
        if grave[name]:
            line += (", of these probably errors: ", whole_figure(f"{key}/grave", grave[name]))
        lines.append((*line, "."))
    return lines
