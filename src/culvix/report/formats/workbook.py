"""The tables of a report as a spreadsheet, or one of them as delimited text: figures in full precision."""

import csv
import io
import re
from collections.abc import Iterator, Sequence
from datetime import datetime
from math import isfinite

import xlsxwriter

from culvix.errors import WriteError
from culvix.progress import Progress, silent
from culvix.report.formats.fragments import exact_cell
from culvix.report.formats.rich_text import clean
from culvix.report.formats.survey_files import harmless
from culvix.report.parts import Part, Report, Sheet, TableBlock

__all__ = ["TABLE_KINDS", "report_workbook", "table_file", "tables_in"]

TABLE_KINDS = (".csv", ".xlsx")
_LONG_AGO = datetime(2000, 1, 1)
_LONGEST_NAME = 31
_NOT_IN_NAMES = re.compile(r"[\[\]:*?/\\\x00-\x1f']")
_LONGEST_CELL = 32_767


def tables_in(parts: Sequence[Part]) -> Iterator[TableBlock]:
    """The tables of ``parts``, in order."""
    for part in parts:
        if isinstance(part, TableBlock):
            yield part
        elif isinstance(part, Sheet):
            yield from tables_in(part.parts)


def report_workbook(report: Report, *, progress: Progress = silent) -> bytes:
    """Every table of ``report`` on a sheet of its own, and every printed figure with its key on the first."""
    progress(0.95, "writing the tables")
    figures = TableBlock(
        "Figures",
        (),
        tuple(((each.key,), (each,), (each.text,)) for each in report.figures),
    )
    named = [("Figures", ["key", "value", "as printed"], figures)]
    tables = [table for section in report.sections for table in tables_in(section.parts)]
    named += [(table.name, [head.text for head in table.heads], table) for table in tables]
    return _spreadsheet(named)


def table_file(table: TableBlock, suffix: str) -> bytes:
    """One table by itself. Raises WriteError for another ``suffix`` than those of `TABLE_KINDS`."""
    heads = [head.text for head in table.heads]
    if suffix.lower() == ".xlsx":
        return _spreadsheet([(table.name, heads, table)])
    if suffix.lower() != ".csv":
        raise WriteError(f"A table is written as .csv or .xlsx, not {suffix or 'without an ending'}.")
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow([harmless(clean(head)) for head in heads])
    for row in table.rows:
        values = map(exact_cell, row)
        writer.writerow([harmless(each) if isinstance(each, str) else repr(each) for each in values])
    return text.getvalue().encode()


def _spreadsheet(tables: Sequence[tuple[str, Sequence[str], TableBlock]]) -> bytes:
    data, taken = io.BytesIO(), set[str]()
    with xlsxwriter.Workbook(data, {"in_memory": True}) as book:
        # Without a time in it the same tables give the same bytes.
        book.set_properties({"created": _LONG_AGO})
        bold = book.add_format({"bold": True})
        for name, heads, table in tables:
            sheet = book.add_worksheet(_free_name(name, taken))
            for position, head in enumerate(heads):
                sheet.write_string(0, position, clean(head), bold)
            for at, row in enumerate(table.rows, start=1):
                for position, cell in enumerate(row):
                    value = exact_cell(cell)
                    if isinstance(value, str) or not isfinite(value):
                        sheet.write_string(at, position, str(value)[:_LONGEST_CELL])
                    else:
                        sheet.write_number(at, position, value)
            sheet.freeze_panes(1, 0)
    return data.getvalue()


def _free_name(name: str, taken: set[str]) -> str:
    """``name`` as a sheet may be called, with a number where it is taken."""
    plain_name = _NOT_IN_NAMES.sub(" ", clean(name)).strip() or "Table"
    position, free = 1, plain_name[:_LONGEST_NAME]
    while free.lower() in taken:
        position += 1
        free = f"{plain_name[: _LONGEST_NAME - 5]} {position}"
    taken.add(free.lower())
    return free
