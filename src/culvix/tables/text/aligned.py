"""Texts whose columns are aligned by spaces: runs of spaces, not single ones, stand between the cells."""

from dataclasses import replace

from culvix.tables.text.delimiters import ALIGNED, unaligned_line
from culvix.tables.text.dialect import Dialect

__all__ = ["unaligned"]


def unaligned(utf8: bytes, dialect: Dialect) -> tuple[bytes, Dialect]:
    """A text whose columns are aligned by spaces as one with tabs, and its dialect; others as they are."""
    if dialect.delimiter not in ALIGNED:
        return utf8, dialect
    lines = (unaligned_line(line, dialect.delimiter) for line in utf8.decode("utf-8").split("\n"))
    return "\n".join(lines).encode("utf-8"), replace(dialect, delimiter="\t")
