"""Which lines of a piece of text have as many empty cells as were read without a value: told from its bytes alone."""

import numpy as np
import polars as pl
from numpy.typing import NDArray

from culvix.stats.core.arrays import Bools, Ints
from culvix.tables.text.dialect import Dialect

__all__ = ["all_empty"]

_NEWLINE, _RETURN = 10, 13
BLOCK_BYTES = 1 << 17


def all_empty(data: bytes, dialect: Dialect, starts: Ints, frame: pl.DataFrame) -> Bools | None:
    """The rows of ``frame`` in which every cell without a value is an empty one in ``data``.

    Their lines begin at ``starts``. A line cut short has cells that stand nowhere, one with words among numbers cells
    that are not empty: of both more are without a value. None where marks quote or remarks stand between the lines.
    """
    if any(mark and mark.encode() in data for mark in (dialect.quote, dialect.comment)):
        return None
    missing = frame.select(pl.sum_horizontal(pl.all().is_null())).to_series().to_numpy()
    if not missing.any():
        return np.ones(frame.height, dtype=bool)
    found = np.searchsorted(starts, _ends_of_empty_cells(data, dialect), side="right") - 1
    return np.asarray(np.bincount(found, minlength=frame.height) == missing)


def _ends_of_empty_cells(data: bytes, dialect: Dialect) -> Ints:
    """Where cells end of which nothing is written."""
    view = np.frombuffer(data, dtype=np.uint8)
    delimiter, returns = dialect.delimiter.encode()[0], b"\r" in data
    found = []
    # Block by block, each with a byte more on either side, which stays in the processor's cache.
    for start in range(0, view.size, BLOCK_BYTES):
        first = max(start - 1, 0)
        part = view[first : start + BLOCK_BYTES + 1]
        before = (part == delimiter) | (part == _NEWLINE)
        ends = _without_newlines_of_returns(part, before) if returns else before
        positions = np.flatnonzero(ends[1:] & before[:-1]) + (first + 1)
        if not start and ends[0]:
            found.append(np.zeros(1, dtype=np.int64))
        found.append(positions[positions < start + BLOCK_BYTES])
    if view[-1] == delimiter:
        found.append(np.array([view.size - 1]))
    return np.concatenate(found)


def _without_newlines_of_returns(part: NDArray[np.uint8], ends: Bools) -> Bools:
    """The ends of cells where a return before a newline ends the cell, and the newline no other one."""
    both = (part[:-1] == _RETURN) & (part[1:] == _NEWLINE)
    moved = ends.copy()
    moved[1:] &= ~both
    moved[:-1] |= both
    return moved
