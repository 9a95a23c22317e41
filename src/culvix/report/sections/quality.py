"""How complete the table is, which cells are missing together, and what looks wrong between columns."""

from collections.abc import Iterator

from culvix.report.context import ReportContext, share_figure, whole_figure
from culvix.report.parts import Head, Listing, Paragraph, Part, TableBlock
from culvix.stats.display import plural
from culvix.tables.checks.missing_patterns import missing_patterns

__all__ = ["quality"]

_PATTERNS = {"short": 6, "full": 20}
_GAPPY = {"short": 12, "full": 1000}


def quality(context: ReportContext, level: str) -> Iterator[Part]:
    """Sentences on the whole table, gaps by column, and gaps that come together."""
    sentences = context.quality.sentences(context.workspace.working.rows_used)
    if level == "line":
        yield Paragraph((sentences[1],))
        return
    yield Listing(tuple((sentence,) for sentence in sentences))
    yield from _by_column(context, _GAPPY[level])
    yield from _together(context, _PATTERNS[level])
    if context.quality.findings:
        yield Paragraph(("Between columns and rows:",))
        yield Listing(tuple((each.evidence,) for each in context.quality.findings))


def _by_column(context: ReportContext, most: int) -> Iterator[Part]:
    table = context.workspace.table
    gappy = sorted(
        (column for column in table if column.missing or column.unread),
        key=lambda column: -(column.missing + column.unread),
    )
    rows = tuple(
        (
            (column.name,),
            (whole_figure(f"column/{column.name}/missing", column.missing),),
            (share_figure(f"column/{column.name}/missing_share", column.missing, table.rows),),
            (whole_figure(f"column/{column.name}/unread", column.unread),),
            (", ".join(f"{text or 'empty'} {number}" for text, number in list(column.missing_by.items())[:5]),),
        )
        for column in gappy[:most]
    )
    if rows:
        heads = (Head("Column"), Head("Missing", True), Head("Share", True), Head("Unread", True), Head("Written as"))
        left = len(gappy) - len(rows)
        caption = f"{plural(left, 'further column')} with fewer are not listed." if left > 0 else ""
        yield TableBlock("Missing and unread cells by column", heads, rows, caption, wide=(4,))


def _together(context: ReportContext, most: int) -> Iterator[Part]:
    table = context.workspace.table
    found = missing_patterns(table, most)
    if not found.patterns:
        return
    rows = tuple(
        (
            (", ".join(pattern.columns),),
            (whole_figure(f"pattern/{','.join(pattern.columns)}", pattern.rows),),
            (share_figure(f"pattern/{','.join(pattern.columns)}/share", pattern.rows, table.rows),),
        )
        for pattern in found.patterns
    )
    caption = (
        f"{plural(found.others, 'further pattern')} in {plural(found.rows_of_others, 'row')} are rarer."
        if found.others
        else ""
    )
    yield TableBlock(
        "Which cells are missing together",
        (Head("Missing or unread in just these columns"), Head("Rows", True), Head("Share", True)),
        rows,
        caption,
        wide=(0,),
    )
