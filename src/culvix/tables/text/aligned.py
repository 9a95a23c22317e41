"""Columns that are aligned by spaces: runs of spaces, not single ones, stand between the cells."""

import re
from dataclasses import replace
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from culvix.tables.text.dialect import Dialect

__all__ = ["ALIGNED", "unaligned", "unaligned_line"]

ALIGNED = {"  ": "two or more spaces", " +": "spaces, one or more"}
"""Delimiters that are runs of spaces, with their names."""

_RUNS = {"  ": r"[ \t]{2,}|\t", " +": r"[ \t]+"}


def unaligned_line(line: str, delimiter: str) -> str:
    """``line`` with a tab in place of each run of spaces."""
    return re.sub(_RUNS[delimiter], "\t", line.strip(" \t\r\n"))


def unaligned(utf8: bytes, dialect: "Dialect") -> "tuple[bytes, Dialect]":
    """A text whose columns are aligned by spaces as one with tabs, and its dialect; others as they are."""
    if dialect.delimiter not in ALIGNED:
        return utf8, dialect
    lines = (unaligned_line(line, dialect.delimiter) for line in utf8.decode("utf-8").split("\n"))
    return "\n".join(lines).encode("utf-8"), replace(dialect, delimiter="\t")
