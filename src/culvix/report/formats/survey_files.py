"""Lines of the survey as a file: delimited text, or a spreadsheet whose numbers are numbers."""

import csv
import io
from collections.abc import Sequence

import xlsxwriter

from culvix.errors import WriteError
from culvix.study.analysis.survey.survey import SurveyRow, survey_fields

__all__ = ["STARTS", "harmless", "survey_file"]

STARTS = ("=", "+", "-", "@", "\t", "\r", "＝", "＋", "－", "＠")
"""A cell that begins with one of these, full-width forms included, may be taken for a formula."""


def harmless(text: str) -> str:
    """``text`` behind an apostrophe where a spreadsheet would take it for a formula."""
    return f"'{text}" if text.startswith(STARTS) else text


def survey_file(rows: Sequence[SurveyRow], fields: Sequence[str], suffix: str) -> bytes:
    """The lines of ``rows`` in full precision. Raises WriteError for a kind of file that cannot be written."""
    if suffix.lower() not in (".csv", ".xlsx"):
        raise WriteError(f"A survey is written as .csv or .xlsx, not {suffix or 'without an ending'}.")
    chosen = [survey_fields()[key] for key in fields]
    head = ["column", *(field.name for field in chosen)]
    body: list[list[object]] = [[row.column.name, *(field.raw(row) for field in chosen)] for row in rows]
    return _spreadsheet(head, body) if suffix.lower() == ".xlsx" else _delimited(head, body)


def _delimited(head: list[str], body: list[list[object]]) -> bytes:
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(head)
    for line in body:
        writer.writerow(
            ["" if cell is None else harmless(cell) if isinstance(cell, str) else repr(cell) for cell in line]
        )
    return text.getvalue().encode("utf-8")


def _cell(cell: object) -> str:
    if cell is None:
        return ""
    return harmless(cell) if isinstance(cell, str) else repr(cell)


def _spreadsheet(head: list[str], body: list[list[object]]) -> bytes:
    data = io.BytesIO()
    with xlsxwriter.Workbook(data, {"in_memory": True}) as book:
        sheet = book.add_worksheet("survey")
        bold = book.add_format({"bold": True})
        for position, name in enumerate(head):
            sheet.write_string(0, position, name, bold)
        for at, line in enumerate(body, start=1):
            for position, cell in enumerate(line):
                if isinstance(cell, str):
                    sheet.write_string(at, position, cell)
                elif isinstance(cell, int | float):
                    sheet.write_number(at, position, cell)
        sheet.freeze_panes(1, 1)
    return data.getvalue()
