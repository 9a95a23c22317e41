"""Columns as bars: ordered codes, categories, dates and texts; and the sheets of columns without numbers."""

from collections.abc import Iterator
from dataclasses import replace

from culvix.report.context import ReportContext, whole_figure
from culvix.report.parts import Numbers, Paragraph, Part, PictureBlock, Sheet, sheet_place
from culvix.stats.display import count, plural
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.pictures.bars import Bar, BarsPicture
from culvix.study.pictures.category_pictures import bars_picture
from culvix.study.pictures.code_pictures import codes_picture
from culvix.tables.model.table import Column

__all__ = ["code_bars", "sheet_of_bars"]

_MOST_BARS = {"short": 8, "full": 30}


def sheet_of_bars(context: ReportContext, column: Column, level: str) -> Sheet:
    """The sheet of a column without numbers: its bars, how many cells it has, and how evenly they are spread."""
    declared = context.workspace.document.dictionary.of(column.name)
    picture = context.remembered.get(
        f"bars/{column.name}", (column, declared), lambda: bars_picture(column, date_order=declared.date_order)
    )
    label = f"“{column.label}”" if column.label and column.label != column.name else ""
    beside = ", ".join(part for part in (label, str(column.role)) if part)
    sheet = Sheet(column.name, column.name, beside, tuple(_parts(context, column, picture, level)))
    return replace(sheet, parts=(*sheet.parts, *context.own_words(sheet_place(sheet))))


def code_bars(context: ReportContext, analysis: ColumnAnalysis, level: str) -> Iterator[Part]:
    """The bars of a column of ordered codes."""
    picture = codes_picture(analysis.column, analysis.sample)
    yield _block(context, analysis.column, picture, level)
    yield Paragraph((f"{picture.about}.",))


def _parts(context: ReportContext, column: Column, picture: BarsPicture, level: str) -> Iterator[Part]:
    if picture.n:
        yield _block(context, column, picture, level)
    rows, key = context.workspace.table.rows, f"column/{column.name}"
    there = rows - column.missing - column.unread
    yield Numbers(
        (
            ("n", (whole_figure(f"{key}/n", there),)),
            ("different", (whole_figure(f"{key}/distinct", column.distinct),)),
            ("missing", (whole_figure(f"{key}/missing", column.missing),)),
        )
    )
    if picture.about:
        yield Paragraph((f"{picture.about}.",))


def _block(context: ReportContext, column: Column, picture: BarsPicture, level: str) -> PictureBlock:
    fewer = picture if picture.standing else _first(picture, _MOST_BARS[level])
    # The rows behind the bars are not drawn, and make a picture of a long table heavy to hand on.
    drawn = fewer.without_codes()
    height = 44.0 if picture.standing else 6.0 + 5.6 * len(drawn.bars)
    first = ", ".join(f"{bar.name} {count(bar.rows)}" for bar in drawn.bars[:5])
    block = PictureBlock(f"bars/{column.name}", drawn, f"Bars of {column.title}: {first}.", height=height)
    context.pictured(block)
    return block


def _first(picture: BarsPicture, most: int) -> BarsPicture:
    """The first bars by themselves and the others together; those of missing cells stay."""
    values = [bar for bar in picture.bars if bar.kind == "value"]
    if len(values) <= most:
        return picture
    rest = [bar for bar in picture.bars if bar.kind == "rest"]
    named = sum(bar.rows for bar in values[most:])
    others = Bar(plural(len(values) - most, "more value"), named, "rest")
    if rest:
        # How many values these are was counted when they were put together.
        others = Bar("all other values", named + rest[0].rows, "rest")
    missing = [bar for bar in picture.bars if bar.kind == "missing"]
    return replace(picture, bars=(*values[:most], others, *missing))
