"""The fingerprint of a table: checksums of its cells, which tell later where the table is another one by then.

A cell that is a number has a checksum of the number, so that "12" and "12.0" are the same; any other has one of its
text. They depend on nothing but that, and are the same on every machine.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from hashlib import blake2b
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

from culvix.stats.core.arrays import Ints
from culvix.tables.model.table import Column, Table

__all__ = ["BLOCK", "Checksums", "Fingerprint", "blocks_of", "checksums_of", "fingerprint_of", "key_checksums"]

Checksums = NDArray[np.uint64]

BLOCK = 256
"""Rows that share a checksum where cells have none of their own."""

MOST_BYTES = 8_000_000
"""What checksums of single cells may take; columns beyond that have one for each block of rows."""
_CELL_BYTES = 4


@dataclass(frozen=True, eq=False)
class Fingerprint:
    """What was in a table of ``rows`` rows with the columns ``names``, in order.

    ``blocks`` has shape ``(⌈rows / 256⌉,)`` for each column; ``cells`` shape ``(rows,)`` for those that have room.
    ``key_cells`` (shape ``(rows,)``) are those of the columns ``key``, which name a row; None where there is no key.
    """

    rows: int
    names: tuple[str, ...]
    blocks: Mapping[str, Ints]
    cells: Mapping[str, Ints] = field(default_factory=dict)
    key: tuple[str, ...] = ()
    key_cells: Checksums | None = None


def fingerprint_of(table: Table, first: Sequence[str] = ()) -> Fingerprint:
    """The fingerprint of ``table``; columns named ``first`` have checksums of their cells before others do."""
    table = table.as_read
    key = tuple(name for name in table.key if name in table)
    if not key and table.label_column is not None:
        key = (table.label_column.name,)
    room = MOST_BYTES - (8 * table.rows if key else 0)
    blocks, cells = {}, {}
    names = [column.name for column in table]
    for name in dict.fromkeys([*(name for name in first if name in table), *names]):
        checksums = checksums_of(table[name])
        blocks[name] = blocks_of(checksums)
        if room >= _CELL_BYTES * table.rows:
            cells[name] = checksums
            room -= _CELL_BYTES * table.rows
    named = key_checksums([table[name] for name in key]) if key else None
    return Fingerprint(table.rows, tuple(names), blocks, cells, key, named)


def checksums_of(column: Column) -> Ints:
    """A checksum of each cell, from 0 to 2^32 − 1, shape ``(rows,)``; 0 for an empty one."""
    found = (_mixed(column.raw.numbers) >> np.uint64(32)).astype(np.int64)
    found[column.raw.nonnumeric_rows] = [crc32(text) for text in _texts(column)]
    return found


def key_checksums(columns: Iterable[Column]) -> Checksums:
    """A checksum of the cells of each row in all ``columns``, shape ``(rows,)``."""
    total: Checksums | None = None
    for column in columns:
        found = _mixed(column.raw.numbers)
        digests = [int.from_bytes(blake2b(text, digest_size=8).digest(), "little") for text in _texts(column)]
        found[column.raw.nonnumeric_rows] = np.array(digests, dtype=np.uint64)
        total = found if total is None else _mixed_bits(total) ^ found
    assert total is not None
    return total


def blocks_of(checksums: Ints) -> Ints:
    """A checksum of each block of 256 rows, the last of which may be shorter."""
    packed = checksums.astype("<u4")
    starts = range(0, int(packed.size), BLOCK)
    return np.array([crc32(packed[start : start + BLOCK].tobytes()) for start in starts], dtype=np.int64)


def _texts(column: Column) -> list[bytes]:
    """What stands in the cells that are no numbers."""
    texts = column.raw.nonnumeric_texts.str.strip_chars().fill_null("").to_list()
    return [text.encode("utf-8", "surrogatepass") for text in texts]


def _mixed(numbers: NDArray[np.float64]) -> Checksums:
    # Zero has two signs, which mean nothing here.
    return _mixed_bits((numbers + 0.0).view(np.uint64))


def _mixed_bits(bits: Checksums) -> Checksums:
    """Bits spread over all places, each pattern to another one (Steele, Lea & Flood 2014, SplitMix)."""
    with np.errstate(over="ignore"):
        mixed = (bits ^ (bits >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        mixed = (mixed ^ (mixed >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return mixed ^ (mixed >> np.uint64(31))
