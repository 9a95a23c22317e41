"""What a study file has of its source: its fingerprint, and where it is wished the whole file, packed."""

import json
import sqlite3
import tempfile
import zlib
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import zstandard

from culvix.errors import ReadError
from culvix.stats.core.arrays import Ints
from culvix.study.carrying.fingerprint import BLOCK, Checksums, Fingerprint

__all__ = ["has_source", "put_fingerprint", "put_source_bytes", "read_fingerprint", "unpack_source"]

_PART = 1 << 22
_MOST_ROWS = 1 << 33


def put_fingerprint(connection: sqlite3.Connection, fingerprint: Fingerprint) -> None:
    """Write ``fingerprint`` in place of the one there is."""
    connection.execute("DELETE FROM checksums")
    about = {"rows": fingerprint.rows, "names": fingerprint.names, "key": fingerprint.key}
    connection.execute("INSERT OR REPLACE INTO about VALUES ('fingerprint', ?)", (json.dumps(about),))
    rows = [("blocks", position, name, "<u4") for position, name in enumerate(fingerprint.blocks)]
    rows += [("cells", position, name, "<u4") for position, name in enumerate(fingerprint.cells)]
    arrays = [*fingerprint.blocks.values(), *fingerprint.cells.values()]
    packed = [
        (kind, position, name, _packed(array, form))
        for (kind, position, name, form), array in zip(rows, arrays, strict=True)
    ]
    if fingerprint.key_cells is not None:
        packed.append(("key", 0, "", _packed(fingerprint.key_cells, "<u8")))
    connection.executemany("INSERT INTO checksums VALUES (?, ?, ?, ?)", packed)


def _packed(array: "np.ndarray[tuple[int], np.dtype[np.int64 | np.uint64]]", form: str) -> bytes:
    return zlib.compress(array.astype(form).tobytes(), 6)


def read_fingerprint(connection: sqlite3.Connection) -> Fingerprint | None:
    """The fingerprint in a study file, None where there is none. Raises ReadError where it makes no sense."""
    found = connection.execute("SELECT value FROM about WHERE key = 'fingerprint'").fetchone()
    if found is None:
        return None
    about = json.loads(found[0])
    rows, names, key = int(about["rows"]), tuple(map(str, about["names"])), tuple(map(str, about["key"]))
    if not 0 <= rows < _MOST_ROWS:
        raise ReadError("The fingerprint of the source makes no sense.")
    blocks: dict[str, Ints] = {}
    cells: dict[str, Ints] = {}
    key_cells: Checksums | None = None
    rows_found = connection.execute("SELECT kind, column, packed FROM checksums ORDER BY kind, position").fetchall()
    for kind, name, packed in rows_found:
        if kind == "key":
            key_cells = _unpacked(packed, "<u8", rows).astype(np.uint64)
        else:
            is_cells = kind == "cells"
            array = _unpacked(packed, "<u4", rows if is_cells else -(-rows // BLOCK)).astype(np.int64)
            (cells if is_cells else blocks)[str(name)] = array
    if set(blocks) != set(names) or not set(cells) <= set(names):
        raise ReadError("The fingerprint of the source is not complete.")
    return Fingerprint(rows, names, blocks, cells, key, key_cells)


def _unpacked(packed: bytes, form: str, size: int) -> "np.ndarray[tuple[int], np.dtype[np.uint32 | np.uint64]]":
    width = int(form[-1])
    data = zlib.decompressobj().decompress(packed, size * width + 1)
    if len(data) != size * width:
        raise ReadError("The fingerprint of the source is damaged.")
    return np.frombuffer(data, dtype=form)


def put_source_bytes(connection: sqlite3.Connection, path: Path) -> None:
    """Write the file at ``path`` into a study file, packed, in place of the one there is. Raises OSError."""
    connection.execute("DELETE FROM source")
    packing = zstandard.ZstdCompressor(level=6).compressobj()
    position = 0
    with open(path, "rb") as file:
        while block := file.read(_PART):
            position = _put_part(connection, position, packing.compress(block))
    _put_part(connection, position, packing.flush())
    connection.execute("INSERT OR REPLACE INTO about VALUES ('source_name', ?)", (path.name,))


def _put_part(connection: sqlite3.Connection, position: int, part: bytes) -> int:
    if part:
        connection.execute("INSERT INTO source VALUES (?, ?)", (position, part))
    return position + bool(part)


def has_source(connection: sqlite3.Connection) -> bool:
    """Whether the source stands in a study file of this version."""
    return bool(connection.execute("SELECT 1 FROM source LIMIT 1").fetchall())


def _parts(connection: sqlite3.Connection) -> Iterator[bytes]:
    # One by one: a query that is left in the middle would hold a lock on the file.
    for (position,) in connection.execute("SELECT position FROM source ORDER BY position").fetchall():
        yield bytes(connection.execute("SELECT packed FROM source WHERE position = ?", (position,)).fetchone()[0])


def unpack_source(connection: sqlite3.Connection, folder: Path, size: int) -> Path:
    """Write the source of a study file into ``folder``, where it is ``size`` bytes long; its path.

    Raises ReadError where it is damaged or longer, and OSError.
    """
    name = connection.execute("SELECT value FROM about WHERE key = 'source_name'").fetchone()
    target = folder / (Path(str(name[0])).name if name else "source")
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=folder, delete=False) as file:
        written, unpacking = 0, zstandard.ZstdDecompressor().decompressobj()
        try:
            for part in _parts(connection):
                block = unpacking.decompress(part)
                written += len(block)
                if written > size:
                    break
                file.write(block)
        except zstandard.ZstdError as error:
            written = -1
            damage = str(error)
        else:
            damage = f"it has {written} bytes, not {size}"
    if written != size:
        Path(file.name).unlink()
        raise ReadError(f"The table that stands in the study is damaged: {damage}.")
    Path(file.name).replace(target)
    return target
