"""How a file is to be read, as far as that is not left to the reader's judgement."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from culvix.errors import ReadError
from culvix.tables.model.options.extent import WHOLE, Extent
from culvix.tables.text.dialect import Dialect

__all__ = ["PLAIN", "ReadOptions"]


_MOST_HEADER_LINES = 9


@dataclass(frozen=True)
class ReadOptions:
    """``dialect`` and ``encoding`` stand in for the guess; ``extent`` says which columns and rows are wanted.

    ``part`` names a sheet or table and ``cells`` a range of a sheet. Where the dialect is guessed or there is none,
    ``header_rows`` says how many lines hold names, ``decimal`` what the decimal mark is. ``ragged`` says what is done
    with lines that have not as many fields as there are columns: refused, filled or left out. The last ``leave_last``
    rows are not read.
    """

    dialect: Dialect | None = None
    encoding: str | None = None
    part: str | None = None
    cells: str | None = None
    extent: Extent = WHOLE
    header_rows: int | None = None
    decimal: str | None = None
    ragged: str = "refused"
    leave_last: int = 0

    def __post_init__(self) -> None:
        if self.ragged not in ("refused", "filled", "left out"):
            raise ReadError(f"Lines that do not fit are refused, filled or left out, not {self.ragged!r}.")
        if self.header_rows is not None and not 0 <= self.header_rows <= _MOST_HEADER_LINES:
            raise ReadError(f"Names stand in 0 to {_MOST_HEADER_LINES} lines, not in {self.header_rows}.")
        if self.leave_last < 0:
            raise ReadError("The number of rows to leave out is a whole number from 0 up.")

    def dialect_of(self, guess: Callable[[], Dialect]) -> Dialect:
        """The dialect to read by: the one chosen, or what ``guess`` finds with the parts that are said."""
        if self.dialect is not None:
            return self.dialect
        parts = {"header_rows": self.header_rows, "decimal": self.decimal}
        chosen = {key: value for key, value in parts.items() if value is not None}
        found = guess()
        return found.changed(**chosen) if chosen else found

    def answered(self, dialect: Dialect | None, change: Mapping[str, Any]) -> "ReadOptions":
        """The same options with the answer to a question about the reading by ``dialect``."""
        of_dialect = {key: value for key, value in change.items() if dialect is not None and hasattr(dialect, key)}
        rest = {key: value for key, value in change.items() if key not in of_dialect}
        chosen = dialect.changed(**of_dialect) if dialect is not None and of_dialect else dialect
        # Another encoding may turn the text into another one, which is looked at anew.
        return replace(self, dialect=None if "encoding" in rest else chosen, **rest)


PLAIN = ReadOptions()
