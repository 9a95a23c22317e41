"""A table before anything is judged: names and cells, every cell as text, and what was decided to get there."""

from dataclasses import dataclass

import polars as pl

from culvix.tables.dialect import Dialect

__all__ = ["RawTable"]


@dataclass(frozen=True, eq=False)
class RawTable:
    """Cells as text: one string column for each of ``names``, in ``frame`` under its place ("0", "1", …).

    ``kind`` says what the file is; ``parts`` are its sheets or tables, of which ``part`` was read. ``notes`` are
    sentences on what was decided. ``dialect`` is given for delimited text only.
    """

    names: tuple[str, ...]
    frame: pl.DataFrame
    kind: str
    encoding: str = ""
    dialect: Dialect | None = None
    notes: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    part: str = ""
