"""How the records of a delimited text are split into cells."""

import warnings
from collections.abc import Iterator
from dataclasses import dataclass

import polars as pl

from culvix.stats.core.arrays import Ints
from culvix.tables.text.dialect import Dialect

__all__ = ["Layout", "lines_at", "records_at"]

# What does not fit together raises an error as well, which is told in words.
warnings.filterwarnings("ignore", "CSV malformed", UserWarning)


@dataclass(frozen=True)
class Layout:
    """How records are read: the dialect, the number of fields, and the places of those read as numbers.

    Of these, the ones with ``gaps`` are read as text first: their other cells need not be looked for then. ``stray``
    says that quotation marks stand within fields, so that only a walk through them tells records apart.
    """

    dialect: Dialect
    width: int
    numeric: frozenset[int] = frozenset()
    gaps: frozenset[int] = frozenset()
    stray: bool = False
    lines: Ints | None = None
    """The lines of the file (from 1) that the text was made of, where it is not the whole file."""

    def line(self, number: int) -> int:
        """The line of the file that is line ``number`` (from 1) of the text."""
        return number if self.lines is None else int(self.lines[number - 1])

    def nothing(self) -> pl.DataFrame:
        """No rows of text."""
        return pl.DataFrame(schema={str(position): pl.String for position in range(self.width)})

    def split(self, data: bytes, *, typed: bool, positions: tuple[int, ...] | None = None) -> pl.DataFrame:
        """The cells of ``data``, columns named by place. Raises PolarsError where its lines do not fit together."""
        schema = {
            str(position): pl.Float64 if typed and position in self.numeric - self.gaps else pl.String
            for position in range(self.width)
        }
        return pl.read_csv(
            data,
            separator=self.dialect.delimiter,
            quote_char=self.dialect.quote or None,
            comment_prefix=self.dialect.comment or None,
            has_header=False,
            schema=schema,
            columns=None if positions is None else list(positions),
            ignore_errors=typed,
            decimal_comma=typed and self.dialect.decimal == "," and self.dialect.delimiter != ",",
            raise_if_empty=False,
        )


def lines_at(data: bytes, starts: Ints) -> Iterator[bytes]:
    """The lines of ``data`` that begin at ``starts``, each with its end."""
    for begin in starts.tolist():
        end = data.find(b"\n", begin)
        yield data[begin:] + b"\n" if end < 0 else data[begin : end + 1]


def records_at(data: bytes, starts: Ints, layout: Layout) -> pl.DataFrame:
    """The cells, as text, of the lines of ``data`` that begin at ``starts``."""
    return layout.split(b"".join(lines_at(data, starts)), typed=False)
