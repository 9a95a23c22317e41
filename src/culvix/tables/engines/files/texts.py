"""Delimited texts that are read in parts: by the dialect that the first of them shows, or not at all."""

from collections.abc import Sequence
from pathlib import Path

import polars as pl

from culvix.errors import ReadError
from culvix.tables.cells.token_spellings import SPELLINGS
from culvix.tables.reading.sources import as_text, read_head
from culvix.tables.text.delimiters import ALIGNED
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.dialect_guess import guess_dialect

__all__ = ["JUDGED_BY", "scan_texts"]

JUDGED_BY = 10_000
"""Rows by which the types of columns are judged."""
_TOKENS = sorted(token for token in SPELLINGS if token.casefold() not in ("none", "nil"))
"""Cells that are missing in every column; what may be a level of a category is not among them."""
_ASKED = "open one of the files by itself, and save the table as Parquet"


def scan_texts(files: Sequence[Path]) -> tuple[pl.LazyFrame, tuple[str, ...]]:
    """All ``files`` as one frame, and what is to be known of how they are read.

    Raises ReadError where the first of them is written in a way that could be read wrongly in parts.
    """
    first = files[0]
    head = read_head(first)
    if head.packing or head.kind != "text":
        raise ReadError(f"{first.name} is packed or no text; {_ASKED}.")
    text = as_text(first, head.data)
    dialect = guess_dialect(text.utf8)
    obstacle = _obstacle(text.encoding, dialect)
    if obstacle:
        raise ReadError(f"{first.name} {obstacle}, which cannot be read in parts; {_ASKED}.")
    frame = pl.scan_csv(
        list(files),
        separator=dialect.delimiter,
        quote_char=dialect.quote or None,
        comment_prefix=dialect.comment or None,
        has_header=dialect.header_rows == 1,
        skip_lines=dialect.preamble_rows,
        decimal_comma=dialect.decimal == ",",
        null_values=_TOKENS,
        infer_schema_length=JUDGED_BY,
        try_parse_dates=True,
        glob=False,
    )
    decimal = ", decimal comma" if dialect.decimal == "," else ""
    notes = (
        f"separated by {dialect.delimiter_name}{decimal}, as {first.name} begins",
        f"types judged by the first {JUDGED_BY:,} rows".replace(",", "\u202f"),
        "cells such as NA, n/a, - or . and empty ones are missing",
        *(question.sentence for question in dialect.questions),
    )
    return frame, notes


def _obstacle(encoding: str, dialect: Dialect) -> str:
    """What keeps a text from being read in parts; empty where nothing does."""
    if encoding.casefold().replace("-", "").replace("_", "") not in ("utf8", "ascii", "utf8sig"):
        return f"is written in {encoding}"
    if dialect.delimiter in ALIGNED or len(dialect.delimiter) != 1:
        return "has columns set apart by spaces"
    if dialect.thousands or dialect.own_marks:
        return "writes its numbers with marks of thousands, or each column in its own way"
    if dialect.header_rows > 1:
        return f"has names in {dialect.header_rows} lines"
    return ""
