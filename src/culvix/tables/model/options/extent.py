"""Which part of a file is read: some of its columns, a range of its rows, or a random sample of them.

A long text is walked through block by block, and only the lines wanted are kept, so that a file larger than memory can
be sampled. The sample is simple and without replacement: every row draws a random number, and the smallest are kept.
"""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from culvix.errors import ReadError
from culvix.progress import Progress
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.display import count, plural
from culvix.tables.text.layout import Layout
from culvix.tables.text.record_splitter import lines_of

__all__ = ["WHOLE", "Extent", "Thinned", "thinned"]

_SEED = 1


@dataclass(frozen=True)
class Extent:
    """What is read. ``columns`` empty: all; ``first`` and ``last``: rows counted from 1, the last one included.

    ``sample`` is the number of rows drawn from that range with ``seed``. Raises ReadError for what makes no sense.
    """

    columns: tuple[str, ...] = ()
    first: int = 1
    last: int | None = None
    sample: int | None = None
    seed: int = _SEED

    def __post_init__(self) -> None:
        if self.first < 1 or (self.last is not None and self.last < self.first):
            raise ReadError(f"There are no rows from {self.first} to {self.last}; rows are counted from 1.")
        if self.sample is not None and self.sample < 1:
            raise ReadError("A sample has at least one row.")
        if len(set(self.columns)) < len(self.columns):
            raise ReadError("A column is named twice among those to read.")
        if self.seed < 0:
            raise ReadError("A seed is a whole number from 0 up.")

    @property
    def every_row(self) -> bool:
        return self.first == 1 and self.last is None and self.sample is None

    def rows_of(self, rows: int) -> Ints:
        """Which of ``rows`` rows are read (ascending, from 0)."""
        some = np.arange(self.first - 1, rows if self.last is None else min(self.last, rows))
        if self.sample is None or self.sample >= some.size:
            return some
        keys = np.random.default_rng(self.seed).random(some.size)
        return np.sort(some[np.argsort(keys, kind="stable")[: self.sample]])

    def sentence(self, read: int, rows: int | None) -> str:
        """What was read, in words; ``rows`` is how many there are, None where that was not counted."""
        among = f"rows {count(self.first)} to {'the end' if self.last is None else count(self.last)}"
        of = "" if rows is None else f" of {count(rows)}"
        if self.sample is not None:
            where = "all" if self.first == 1 and self.last is None else among
            return f"A random sample of {plural(read, 'row')}{of} is read, drawn from {where} with seed {self.seed}."
        return f"Only {among}{of} are read."


WHOLE = Extent()


@dataclass(frozen=True, eq=False)
class Thinned:
    """The lines kept, one after the other, with their rows (from 0) and lines (from 1) in the file.

    ``counted`` is the number of rows of the file, None where its end was not reached.
    """

    utf8: bytes
    rows: Ints
    lines: Ints
    counted: int | None


@dataclass(eq=False)
class _DrawnLines:
    """Lines kept so far, with the random number each row drew."""

    lines: list[bytes]
    rows: Ints
    positions: Ints
    keys: Floats

    def add(self, lines: Iterable[bytes], rows: Ints, positions: Ints, keys: Floats) -> None:
        self.lines.extend(lines)
        self.rows = np.concatenate([self.rows, rows])
        self.positions = np.concatenate([self.positions, positions])
        self.keys = np.concatenate([self.keys, keys])

    def smallest(self, most: int) -> float:
        """Keep the rows that drew the ``most`` smallest numbers; return the largest of these."""
        if self.rows.size <= most:
            return float("inf")
        order = np.sort(np.argsort(self.keys, kind="stable")[:most])
        self.lines = [self.lines[position] for position in order.tolist()]
        self.rows, self.positions, self.keys = self.rows[order], self.positions[order], self.keys[order]
        return float(self.keys.max())


def thinned(blocks: Iterable[bytes], layout: Layout, extent: Extent, above: int, progress: Progress) -> Thinned:
    """The records among ``blocks`` that ``extent`` wants; ``above`` lines stand before the first block.

    A block ends where a record ends. Raises StrayQuote where records cannot be told apart block by block, and whatever
    ``progress`` raises.
    """
    draw = np.random.default_rng(extent.seed)
    none = np.zeros(0, dtype=np.int64)
    drawn = _DrawnLines([], none, none, np.zeros(0))
    limit = float("inf")
    seen, line = 0, above + 1
    for block in blocks:
        records = lines_of(block, layout.dialect, layout.width)
        rows = seen + np.arange(records.starts.size)
        requested = _in_range(rows, extent)
        keys = np.zeros(rows.size)
        if extent.sample is not None:
            keys[requested] = draw.random(int(requested.sum()))
            requested &= keys < limit
        chosen = np.flatnonzero(requested)
        pieces = (block[begin:end] for begin, end in zip(records.starts[chosen], records.ends[chosen], strict=True))
        drawn.add(pieces, rows[chosen], line + records.lines[chosen], keys[chosen])
        if extent.sample is not None and drawn.rows.size > 2 * extent.sample:
            limit = drawn.smallest(extent.sample)
        seen += rows.size
        line += block.count(b"\n")
        progress(0.1, f"choosing among {plural(seen, 'row')}")
        if extent.last is not None and seen >= extent.last:
            return _finished(drawn, extent, None)
    return _finished(drawn, extent, seen)


def _finished(drawn: _DrawnLines, extent: Extent, counted: int | None) -> Thinned:
    if extent.sample is not None:
        drawn.smallest(extent.sample)
    ended = (line if line.endswith(b"\n") else line + b"\n" for line in drawn.lines)
    return Thinned(b"".join(ended), drawn.rows, drawn.positions, counted)


def _in_range(rows: Ints, extent: Extent) -> Bools:
    requested: Bools = rows >= extent.first - 1
    if extent.last is not None:
        requested &= rows < extent.last
    return requested
