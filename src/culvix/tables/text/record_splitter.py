"""Where a long text can be cut: into pieces of whole records, and into the records themselves.

A quoted field may hold line ends; where marks quote and where they do not is told by counting them.
"""

from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.tables.reading.sources import find_byte
from culvix.tables.text.dialect import Dialect

__all__ = ["Records", "Spans", "StrayQuote", "check_quotes", "cut", "lines_of", "record_end"]

PIECE_BYTES = 1 << 23
_NEWLINE = 10
_LONGEST_BLANK = 1000
_BLANKS = b" \t\r\n\x0b\x0c"
_MOST_STEPS = 10_000

Spans = list[tuple[int, int]]


class StrayQuote(Exception):
    """A quotation mark stands within a field, so that it cannot be told what it quotes."""


def cut(utf8: bytes, first: int, quote: str) -> Spans:
    """Where pieces of whole records begin and end, from the byte ``first`` on; a quoted field may hold line ends."""
    mark = quote.encode()
    if mark and find_byte(utf8, mark, first) < 0:
        mark = b""
    spans = []
    while first < len(utf8):
        end = _record_end(utf8, first, mark)
        spans.append((first, end))
        first = end
    return spans


@dataclass(frozen=True, eq=False)
class Records:
    """Where records begin and end in a block, and how many lines stand before each.

    Blank lines and comments are none.
    """

    starts: Ints
    ends: Ints
    lines: Ints


def lines_of(block: bytes, dialect: Dialect, width: int) -> Records:
    """The records of ``block``, which begins and ends with one. Raises StrayQuote where they cannot be told apart."""
    view = np.frombuffer(block, dtype=np.uint8)
    every = np.flatnonzero(view == _NEWLINE)
    closed = every
    if dialect.quote and dialect.quote.encode() in block:
        check_quotes(block, dialect)
        quotes = np.flatnonzero(view == dialect.quote.encode()[0])
        closed = every[np.searchsorted(quotes, every) % 2 == 0]
    ends = closed + 1
    if not ends.size or ends[-1] < view.size:
        ends = np.append(ends, view.size)
    starts = np.concatenate([[0], ends[:-1]])
    keep = np.ones(starts.size, dtype=bool)
    comment = dialect.comment.encode()
    doubtful = ends - starts < _LONGEST_BLANK if width > 1 else np.zeros(starts.size, dtype=bool)
    first = view[np.minimum(starts, view.size - 1)]
    doubtful &= np.isin(first, list(_BLANKS))
    if comment:
        doubtful |= first == comment[0]
    for position in np.flatnonzero(doubtful).tolist():
        record = block[starts[position] : ends[position]]
        if (comment and record.startswith(comment)) or not record.strip():
            keep[position] = False
    return Records(starts[keep], ends[keep], np.searchsorted(every, starts[keep]))


def record_end(block: bytes, quote: str) -> int:
    """The end of the last whole record in ``block``; 0 where there is none."""
    end, mark = len(block), quote.encode()
    mark = mark if mark and mark in block else b""
    open_quotes = block.count(mark) if mark else 0
    while (at := block.rfind(b"\n", 0, end)) >= 0:
        open_quotes -= block.count(mark, at, end) if mark else 0
        if open_quotes % 2 == 0:
            return at + 1
        end = at
    return 0


def _record_end(utf8: bytes, first: int, mark: bytes) -> int:
    size = PIECE_BYTES
    while first + size < len(utf8):
        end = first + size
        open_quotes = utf8.count(mark, first, end) if mark else 0
        for _ in range(_MOST_STEPS):
            at = utf8.rfind(b"\n", first, end)
            if at < 0:
                break
            open_quotes -= utf8.count(mark, at, end) if mark else 0
            if open_quotes % 2 == 0:
                return at + 1
            end = at
        size *= 2
    return len(utf8)


def check_quotes(data: bytes, dialect: Dialect) -> None:
    """Raise StrayQuote unless marks open and close fields by turns; a doubled one closes and opens again."""
    mark, delimiter = dialect.quote.encode()[0], dialect.delimiter.encode()[0]
    opens, closes = np.zeros(256, dtype=bool), np.zeros(256, dtype=bool)
    opens[[mark, delimiter, _NEWLINE]] = True
    closes[[mark, delimiter, _NEWLINE, 13]] = True
    view = np.frombuffer(data, np.uint8)
    at = np.flatnonzero(view == mark)
    begun = opens[view[np.maximum(at - 1, 0)]] | (at == 0)
    ended = closes[view[np.minimum(at + 1, view.size - 1)]] | (at == view.size - 1)
    if at.size % 2 or not (begun[::2].all() and ended[1::2].all()):
        raise StrayQuote
