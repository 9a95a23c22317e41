"""How complete the table is, which cells are missing together, and what looks wrong between columns."""

from collections.abc import Iterator

from culvix.report.context import ReportContext, share_figure, whole_figure
from culvix.report.parts import Head, Listing, Paragraph, Part, PictureBlock, TableBlock
from culvix.stats.display import plural
from culvix.study.pictures.missing_picture import MissingPicture, missing_picture
from culvix.tables.checks.missing_patterns import missing_patterns

__all__ = ["quality"]

_PATTERNS = {"short": 14, "full": 20}
_LINKS = {"short": 4, "full": 40}
_GAPPY = {"short": 12, "full": 1000}


def quality(context: ReportContext, level: str) -> Iterator[Part]:
    """Sentences on the whole table, gaps by column, and gaps that come together."""
    sentences = context.quality.sentences(context.workspace.working.rows_used)
    if level == "line":
        yield Paragraph((sentences[1],))
        return
    yield Listing(tuple((sentence,) for sentence in sentences))
    yield from _by_column(context, _GAPPY[level])
    yield from _together(context, level)
    yield from _links(context, _LINKS[level])
    if context.quality.findings:
        yield Paragraph(("Between columns and rows:",))
        yield Listing(tuple((each.evidence,) for each in context.quality.findings))


def _pictured(context: ReportContext, picture: MissingPicture) -> Iterator[Part]:
    block = PictureBlock("missing", picture, picture.sentence, height=18.0 + 4.5 * len(picture.columns))
    context.pictured(block)
    columns, patterns = picture.left_out
    left = [plural(columns, "further column")] if columns else []
    left += [plural(patterns, "further pattern")] if patterns else []
    rarer = f" {' and '.join(left)} with fewer gaps are not drawn." if left else ""
    yield Paragraph(("Missing together: a square is a gap, a stripe the rows with just these gaps." + rarer,), "quiet")
    yield block


def _links(context: ReportContext, most: int) -> Iterator[Part]:
    found = context.missing_links
    if found.tried:
        yield Paragraph((found.sentence,))
    if found.links:
        yield Listing(tuple((each.sentence,) for each in found.links[:most]))


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


def _together(context: ReportContext, level: str) -> Iterator[Part]:
    table = context.workspace.table
    found = missing_patterns(table, _PATTERNS[level])
    if not found.patterns:
        return
    picture = missing_picture(found, {each.name: each.missing + each.unread for each in table})
    # A single stripe shows no more than the line of the table.
    if picture is not None and len(picture.patterns) > 1:
        yield from _pictured(context, picture)
        if level == "short":
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
