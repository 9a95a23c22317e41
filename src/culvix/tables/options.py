"""How a file is to be read, as far as that is not left to the reader's judgement."""

from dataclasses import dataclass

from culvix.tables.dialect import Dialect
from culvix.tables.extent import WHOLE, Extent

__all__ = ["PLAIN", "ReadOptions"]


@dataclass(frozen=True)
class ReadOptions:
    """``dialect`` and ``encoding`` stand in for the guess; ``extent`` says which columns and rows are wanted.

    ``part`` names a sheet or table, ``cells`` a range of a sheet.
    """

    dialect: Dialect | None = None
    encoding: str | None = None
    part: str | None = None
    cells: str | None = None
    extent: Extent = WHOLE


PLAIN = ReadOptions()
