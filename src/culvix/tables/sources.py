"""From a path to text: what kind of file it is, its checksum, and its encoding."""

import hashlib
import os
import stat
from dataclasses import dataclass
from pathlib import Path

from charset_normalizer import from_bytes

from culvix.errors import ReadError
from culvix.progress import Progress

__all__ = ["RawText", "read_text"]

_CHUNK = 1 << 22
_GUESS_FROM = 1 << 17
_MARKS = {b"\xff\xfe": "utf-16", b"\xfe\xff": "utf-16"}


@dataclass(frozen=True)
class RawText:
    """A text file's content as UTF-8 without byte-order mark, lines ended by newlines, and what it was before."""

    utf8: bytes
    sha256: str
    size: int
    encoding: str
    notes: tuple[str, ...]


def read_text(path: Path, progress: Progress) -> RawText:
    """Read ``path`` whole. Raises ReadError for anything that is not a readable, non-empty text file."""
    data, sha256 = _read(path, progress)
    if not data:
        raise ReadError(f"{path.name} is empty: there is nothing in it to read.")
    utf8, encoding, notes = _as_utf8(path, data)
    if b"\r" in utf8 and b"\n" not in utf8:
        utf8 = utf8.replace(b"\r", b"\n")
    if not utf8.strip():
        raise ReadError(f"{path.name} holds only blank lines.")
    return RawText(utf8, sha256, len(data), encoding, notes)


def _read(path: Path, progress: Progress) -> tuple[bytes, str]:
    digest = hashlib.sha256()
    chunks: list[bytes] = []
    try:
        kind = os.stat(path)
        if stat.S_ISDIR(kind.st_mode):
            raise ReadError(f"{path.name or path} is a folder; choose a file in it.")
        if not stat.S_ISREG(kind.st_mode):
            raise ReadError(f"{path.name} is not a regular file, so it cannot be read as a table.")
        done = 0
        with open(path, "rb") as file:
            while chunk := file.read(_CHUNK):
                chunks.append(chunk)
                digest.update(chunk)
                done += len(chunk)
                progress(0.3 * done / max(kind.st_size, done), f"reading {path.name}")
    except OSError as error:
        raise ReadError(f"{path} cannot be read: {(error.strerror or 'unknown error').lower()}.") from error
    except ValueError as error:
        raise ReadError(f"This is not the path of a file: {error}.") from error
    return b"".join(chunks), digest.hexdigest()


def _as_utf8(path: Path, data: bytes) -> tuple[bytes, str, tuple[str, ...]]:
    if data.startswith(b"\xef\xbb\xbf"):
        data = data[3:]
        _refuse_nul(path, data)
    elif data[:2] in _MARKS:
        encoding = _MARKS[data[:2]]
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError as error:
            raise ReadError(f"{path.name} begins like UTF-16 but breaks off at byte {error.start}.") from error
        _refuse_nul(path, text.encode("utf-8"))
        return text.encode("utf-8"), "UTF-16", ()
    else:
        _refuse_nul(path, data)
    try:
        data.decode("utf-8")
    except UnicodeDecodeError as error:
        return _guessed(path, data, error)
    return data, "UTF-8", ()


def _refuse_nul(path: Path, data: bytes) -> None:
    at = data.find(b"\0")
    if at >= 0:
        line = data.count(b"\n", 0, at) + 1
        raise ReadError(f"{path.name} is not a text table: line {line} holds a NUL byte (byte {at + 1} of the file).")


def _guessed(path: Path, data: bytes, error: UnicodeDecodeError) -> tuple[bytes, str, tuple[str, ...]]:
    """Text that is not UTF-8, by the encoding its bytes most resemble around the first that does not fit."""
    start = data.rfind(b"\n", 0, max(error.start - _GUESS_FROM // 2, 0)) + 1
    best = from_bytes(data[start : start + _GUESS_FROM]).best()
    line = data.count(b"\n", 0, error.start) + 1
    if best is None:
        raise ReadError(f"{path.name} is not readable text: line {line} is neither UTF-8 nor any known encoding.")
    try:
        text = data.decode(best.encoding)
    except (UnicodeDecodeError, LookupError) as broken:
        raise ReadError(
            f"{path.name} looks like {best.encoding}, but not all of it can be read so; save it as UTF-8 and try again."
        ) from broken
    note = f"Line {line} is not UTF-8; the file was read as {best.encoding}, guessed from its bytes."
    return text.encode("utf-8"), best.encoding, (note,)
