"""What a study file has of its source: its fingerprint, and where it is wished the whole file, packed."""

import hashlib
import io
import json
import os
import sqlite3
import tempfile
import zlib
from contextlib import suppress
from pathlib import Path
from typing import IO

import numpy as np
import zstandard

from culvix.errors import ReadError, WriteError
from culvix.files import display_path, open_regular
from culvix.json_text import plain_json
from culvix.places import cache_folder, make_private, owner_mark
from culvix.stats.core.arrays import Ints
from culvix.study.carrying.fingerprint import BLOCK, Checksums, Fingerprint
from culvix.study.storage.database import rows_of

__all__ = ["has_source", "put_fingerprint", "put_source_bytes", "read_fingerprint", "unpack_source"]

_PART = 1 << 22
_MOST_ROWS = 1 << 33
_MOST_CHECKSUMS = 200 << 20
"""Bytes that all checksums of a table take at the most."""
_BOMB_SIZE, _BOMB_RATIO = 100 << 20, 50
"""Nobody's table unpacks to more than this many bytes and this many times its packed size."""
_LARGEST_WINDOW = 1 << 27
_LONGEST_NAME = 200


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
    about = plain_json(found[0])
    rows, names, key = int(about["rows"]), tuple(map(str, about["names"])), tuple(map(str, about["key"]))
    if not 0 <= rows < _MOST_ROWS:
        raise ReadError("The fingerprint of the source makes no sense.")
    blocks: dict[str, Ints] = {}
    cells: dict[str, Ints] = {}
    key_cells: Checksums | None = None
    taken = 0
    for kind, name, packed in rows_of(connection, "SELECT kind, column, packed FROM checksums ORDER BY kind, position"):
        taken += 8 * rows if kind == "key" else 4 * (rows if kind == "cells" else -(-rows // BLOCK))
        if taken > max(_MOST_CHECKSUMS, 16 * rows):
            raise ReadError("The fingerprint of the source is larger than any table's.")
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
    """Write the file at ``path`` into a study file, packed, in place of the one there is.

    Raises WriteError where it could not be taken out again, and OSError.
    """
    connection.execute("DELETE FROM source")
    packing = zstandard.ZstdCompressor(level=6).compressobj()
    position = size = packed = 0
    with open_regular(path) as file:
        while block := file.read(_PART):
            part = packing.compress(block)
            size, packed = size + len(block), packed + len(part)
            position = _put_part(connection, position, part)
    part = packing.flush()
    if size > _most_unpacked(packed + len(part)):
        raise WriteError(f"{display_path(Path(path.name))} packs to so little that it could not be told from a trap.")
    _put_part(connection, position, part)
    connection.execute("INSERT OR REPLACE INTO about VALUES ('source_name', ?)", (display_path(Path(path.name)),))


def _most_unpacked(packed: int) -> int:
    """So many bytes a table may have that is packed to ``packed``."""
    return max(_BOMB_SIZE, _BOMB_RATIO * packed)


def _put_part(connection: sqlite3.Connection, position: int, part: bytes) -> int:
    if part:
        connection.execute("INSERT INTO source VALUES (?, ?)", (position, part))
    return position + bool(part)


def has_source(connection: sqlite3.Connection) -> bool:
    """Whether the source stands in a study file of this version."""
    return bool(connection.execute("SELECT 1 FROM source LIMIT 1").fetchall())


class _Parts(io.RawIOBase):
    """The parts of a packed source as one stream, each fetched when it is its turn."""

    def __init__(self, connection: sqlite3.Connection) -> None:
        self._connection = connection
        self._positions = iter(rows_of(connection, "SELECT position FROM source ORDER BY position"))
        self._part = memoryview(b"")

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: "memoryview[int]") -> int:  # type: ignore[override]
        while not self._part:
            position = next(self._positions, None)
            if position is None:
                return 0
            found = self._connection.execute("SELECT packed FROM source WHERE position = ?", position).fetchone()
            self._part = memoryview(bytes(found[0]))
        taken = self._part[: len(buffer)]
        buffer[: len(taken)] = taken
        self._part = self._part[len(taken) :]
        return len(taken)


def unpack_source(connection: sqlite3.Connection, size: int, sha256: str) -> Path:
    """The source of a study file in a file of its own, among those of the program; it is ``size`` bytes long.

    What the study says of it is believed of nothing but its checksum (``sha256``, empty where there is none), and only
    once that fits. A file that was unpacked before is taken as it is. Raises ReadError where it is damaged or longer
    than it should be, and OSError.
    """
    packed = sum(length for _, length in rows_of(connection, "SELECT position, length(packed) FROM source"))
    if not 0 <= size <= _most_unpacked(packed):
        raise ReadError("The table in the study is far larger than what it is packed to; it is not unpacked.")
    name = connection.execute("SELECT value FROM about WHERE key = 'source_name'").fetchone()
    folder = make_private(cache_folder() / "sources")
    handle, unfinished = tempfile.mkstemp(prefix=f"{owner_mark()}-", dir=folder)
    try:
        with os.fdopen(handle, "wb") as file:
            digest = _unpack(connection, file, size)
        if sha256 and digest != sha256:
            raise ReadError("The table that stands in the study is not the one it is about: its checksum differs.")
        return _in_place(Path(unfinished), folder / digest, _plain_name(str(name[0]) if name else ""))
    finally:
        with suppress(FileNotFoundError):
            os.unlink(unfinished)


def _unpack(connection: sqlite3.Connection, file: IO[bytes], size: int) -> str:
    """Write the source to ``file``; its checksum. Raises ReadError."""
    written, digest = 0, hashlib.sha256()
    damage = ""
    try:
        unpacking = zstandard.ZstdDecompressor(max_window_size=_LARGEST_WINDOW)
        with unpacking.stream_reader(io.BufferedReader(_Parts(connection))) as stream:
            while written <= size and (block := stream.read(_PART)):
                written += len(block)
                digest.update(block)
                file.write(block)
    except zstandard.ZstdError as error:
        damage = str(error)
    if damage or written != size:
        raise ReadError(f"The table that stands in the study is damaged: {damage or f'it does not have {size} bytes'}.")
    return digest.hexdigest()


def _digest(file: IO[bytes]) -> str:
    digest = hashlib.sha256()
    while block := file.read(_PART):
        digest.update(block)
    return digest.hexdigest()


def _plain_name(name: str) -> str:
    """A name for a file of the program's own, as near to ``name`` as it goes: never hidden, never a path."""
    plain = "".join(each if each.isprintable() and each not in "/\\" else "_" for each in name.rpartition("/")[2])
    while len(os.fsencode(plain)) > _LONGEST_NAME:
        plain = plain[1:]
    return plain.lstrip(".") or "source"


def _in_place(unfinished: Path, folder: Path, name: str) -> Path:
    """Give the unpacked file its name in ``folder``, which bears its checksum; what is there already stays."""
    make_private(folder)
    target = folder / name
    try:
        os.link(unfinished, target)
    except FileExistsError:
        try:
            with open_regular(target, follow_links=False) as found:
                if _digest(found) == folder.name:
                    return target
        except ReadError:
            pass
        # Something else has the name: it stays, and the table goes beside it.
        target = Path(tempfile.mkdtemp(dir=folder)) / name
        os.link(unfinished, target)
    return target
