"""From a path to bytes: what kind of file it is, its checksum, unpacked where it is packed; and from bytes to text."""

import gzip
import hashlib
import io
import os
import zlib
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from threading import Lock
from typing import IO

import zstandard

from culvix.errors import ReadError
from culvix.files import display_path, open_regular
from culvix.progress import Progress
from culvix.stats.display import plural
from culvix.tables.model.options.reading_questions import ReadingQuestion
from culvix.tables.reading.encodings import encoding_name, infer_encoding

__all__ = [
    "Checksum",
    "Content",
    "RawText",
    "as_text",
    "checked_file",
    "find_byte",
    "read_content",
    "read_head",
    "unpacked_pieces",
]

_CHUNK = 1 << 22
_DIGESTS = ThreadPoolExecutor(1, "checksum")
_GUESS_FROM, _WINDOWS = 1 << 15, 16
_MARKS = {b"\xff\xfe": "utf-16", b"\xfe\xff": "utf-16"}
_PACKED = {b"\x1f\x8b": "gz", b"\x28\xb5\x2f\xfd": "zst"}
_MAGIC = (
    (b"PAR1", "parquet"),
    (b"ARROW1", "arrow"),
    (b"SQLite format 3\0", "sqlite"),
    (b"PK\x03\x04", "zip"),
    (b"\xd0\xcf\x11\xe0", "old office"),
    (b"%PDF", "pdf"),
)
LONGEST_LINE = 1 << 25
_PACKED_PIECE, _LARGEST_WINDOW = 1 << 12, 1 << 27
_BOMB_SIZE, _BOMB_RATIO = 100 << 20, 20
"""Nobody's table unpacks to more than this many bytes and this many times its packed size."""

_MOST_LINES, _LINES_PER_BYTE = 20_000_000, 4
"""Nor does it have more lines than this, and than so many for each packed byte."""


@dataclass(frozen=True)
class Content:
    """A file's bytes, unpacked, and what they are: text, json, parquet, arrow, sqlite, zip …

    ``checksum`` and ``size`` are those of the file as it lies there.
    """

    path: Path
    data: bytes
    kind: str
    size: int
    checksum: "Checksum"
    packing: str = ""

    def without_data(self) -> "Content":
        """The same without its bytes, once they are split into cells."""
        return replace(self, data=b"")


class Checksum:
    """The SHA-256 of a file's bytes, worked out in a thread of its own once the file is read."""

    def __init__(self, packed: bytes) -> None:
        self._packed = packed
        self._lock = Lock()
        self._digest: Future[str] | None = None

    @classmethod
    def known(cls, text: str) -> "Checksum":
        """One that has been worked out."""
        checksum = cls(b"")
        checksum._digest = Future()
        checksum._digest.set_result(text)
        return checksum

    def start(self) -> None:
        """Begin to work it out, unless that has begun."""
        with self._lock:
            if self._digest is None:
                packed, self._packed = self._packed, b""
                self._digest = _DIGESTS.submit(lambda: hashlib.sha256(packed).hexdigest())

    @property
    def text(self) -> str:
        """The checksum in hexadecimal digits, waited for."""
        self.start()
        assert self._digest is not None  # it has been started
        return self._digest.result()


@dataclass(frozen=True)
class RawText:
    """A text file's content as UTF-8 without byte-order mark, lines ended by newlines, and what it was before."""

    utf8: bytes
    encoding: str
    notes: tuple[str, ...] = ()
    questions: tuple[ReadingQuestion, ...] = ()


@contextmanager
def checked_file(path: Path) -> Iterator[IO[bytes]]:
    """The regular file at ``path``, open for reading.

    Raises ReadError for what cannot be read as one, and at the end where it was changed meanwhile.
    """
    try:
        file = open_regular(path)
    except OSError as error:
        raise _unreadable(path, error) from error
    try:
        with file:
            before = os.fstat(file.fileno())
            yield file
        after = os.stat(path)
    except OSError as error:
        raise _unreadable(path, error) from error
    if (before.st_mtime_ns, before.st_size) != (after.st_mtime_ns, after.st_size):
        raise ReadError(f"{path.name} was changed while it was read; wait until it is written, and open it again.")


def _unreadable(path: Path, error: OSError) -> ReadError:
    return ReadError(f"{display_path(path)} cannot be read: {(error.strerror or 'unknown error').lower()}.")


def read_content(path: Path, progress: Progress) -> Content:
    """Read ``path`` whole. Raises ReadError for what is no readable, non-empty file, or was changed meanwhile."""
    with checked_file(path) as file:
        expected = os.fstat(file.fileno()).st_size
        data, size = _read(file, path, expected, progress)
    if not data:
        raise ReadError(f"{path.name} is empty: there is nothing in it to read.")
    if size != expected:
        raise ReadError(f"{path.name} was changed while it was read; wait until it is written, and open it again.")
    checksum = Checksum(data)
    packing = _packing(data)
    if packing:
        data = _unpacked(path, data, packing, progress)
    return Content(path, data, _kind(path, data), size, checksum, packing)


def read_head(path: Path, size: int = 1 << 20) -> Content:
    """The first bytes of ``path``, unpacked, and what they are. Raises ReadError as `read_content`."""
    with checked_file(path) as file:
        data = file.read(size)
        length = os.fstat(file.fileno()).st_size
    if not data:
        raise ReadError(f"{path.name} is empty: there is nothing in it to read.")
    packing = _packing(data)
    if packing:
        data = next(_unpack_errors(path, packing, _head_pieces(data, packing)), b"")
    return Content(path, data, _kind(path, data), length, Checksum(b""), packing)


def _head_pieces(data: bytes, packing: str) -> Iterator[bytes]:
    """The beginning of what ``data``, which may be cut off, unpacks to."""
    if packing == "gz":
        yield zlib.decompressobj(wbits=31).decompress(data, _CHUNK)
    else:
        yield next(_zst_pieces(data), b"")


def unpacked_pieces(path: Path, file: IO[bytes], heard: Callable[[bytes], None]) -> Iterator[bytes]:
    """The content of ``file`` piece by piece, unpacked; ``heard`` is told the bytes as they lie there.

    What is packed is held as it is. Raises ReadError where it is damaged.
    """
    first = file.read(_CHUNK)
    packing = _packing(first)
    if not packing:
        while first:
            heard(first)
            yield first
            first = file.read(_CHUNK)
        return
    data = first + file.read()
    heard(data)
    yield from _unpack_errors(path, packing, _gz_pieces(data) if packing == "gz" else _zst_pieces(data))


def _packing(data: bytes) -> str:
    return next((name for magic, name in _PACKED.items() if data.startswith(magic)), "")


def _unpack_errors(path: Path, packing: str, pieces: Iterator[bytes]) -> Iterator[bytes]:
    """The same ``pieces``; damage is told in words."""
    try:
        yield from pieces
    except (EOFError, OSError, zlib.error, zstandard.ZstdError) as error:
        raise ReadError(f"{path.name} is packed ({packing}), but cut off or damaged: it cannot be unpacked.") from error


def _read(file: IO[bytes], path: Path, expected: int, progress: Progress) -> tuple[bytes, int]:
    """Content and size. The buffer grows in place, so that the content is never held twice."""
    buffer = io.BytesIO()
    # A file that grows while it is read is given up at the first byte too many, not followed to its end.
    while buffer.tell() <= expected and (chunk := file.read(_CHUNK)):
        buffer.write(chunk)
        progress(0.3 * buffer.tell() / max(expected, buffer.tell()), f"reading {path.name}")
    return buffer.getvalue(), buffer.tell()


def _unpacked(path: Path, data: bytes, packing: str, progress: Progress) -> bytes:
    buffer, lines = io.BytesIO(), 0
    for piece in _unpack_errors(path, packing, _gz_pieces(data) if packing == "gz" else _zst_pieces(data)):
        buffer.write(piece)
        progress(0.3, f"unpacking {path.name}")
        lines += piece.count(b"\n")
        if buffer.tell() > max(_BOMB_SIZE, _BOMB_RATIO * len(data)):
            raise ReadError(
                f"{path.name} unpacks to over {_BOMB_RATIO} times its size; few tables do, so it is not opened. "
                "Unpack it yourself if it is one, or read a random sample of it."
            )
        if lines > max(_MOST_LINES, _LINES_PER_BYTE * len(data)):
            raise ReadError(f"{path.name} unpacks to over {lines >> 20} million lines; it is not opened.")
    if not buffer.tell():
        raise ReadError(f"{path.name} holds nothing once it is unpacked.")
    return buffer.getvalue()


def _gz_pieces(data: bytes) -> Iterator[bytes]:
    with gzip.GzipFile(fileobj=io.BytesIO(data)) as stream:
        while piece := stream.read(_CHUNK):
            yield piece


def _zst_pieces(data: bytes) -> Iterator[bytes]:
    """Unpacked frame by frame, in packed pieces so small that none can unpack to more than memory holds."""
    unpack, started = zstandard.ZstdDecompressor(max_window_size=_LARGEST_WINDOW).decompressobj(), False
    for first in range(0, len(data), _PACKED_PIECE):
        piece = data[first : first + _PACKED_PIECE]
        while piece:
            yield unpack.decompress(piece)
            piece = unpack.unused_data
            if unpack.eof:
                unpack = zstandard.ZstdDecompressor(max_window_size=_LARGEST_WINDOW).decompressobj()
                started = bool(piece)
            else:
                started = True
    if started:
        raise EOFError("The last frame is cut off.")


def _kind(path: Path, data: bytes) -> str:
    for magic, kind in _MAGIC:
        if data.startswith(magic):
            return kind
    names = [suffix.lower() for suffix in path.suffixes]
    if any(name in (".json", ".ndjson", ".jsonl", ".geojson") for name in names) and data.lstrip()[:1] in (b"{", b"["):
        return "json"
    return "text"


def as_text(path: Path, data: bytes, encoding: str | None = None) -> RawText:
    """Decode ``data``, by ``encoding`` where it is known. Raises ReadError for what is no text, or only blank."""
    raw = _as_utf8(path, data) if encoding is None else _decoded(path, data, encoding)
    utf8 = raw.utf8
    if find_byte(utf8, b"\r") >= 0:
        pairs = utf8.count(b"\r\n")
        if utf8.count(b"\r") - pairs > utf8.count(b"\n") - pairs:
            # Lines end as they did on an old system; a few may end otherwise.
            utf8 = utf8.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
    if not utf8[:_CHUNK].strip() and not utf8.strip():
        raise ReadError(f"{path.name} holds only blank lines.")
    _refuse_long_lines(path, utf8)
    return replace(raw, utf8=utf8)


def _as_utf8(path: Path, data: bytes) -> RawText:
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
        return RawText(text.encode("utf-8"), "UTF-16")
    else:
        _refuse_nul(path, data)
    broken = _first_broken(data)
    return RawText(data, "UTF-8") if broken is None else _guessed(path, data, broken)


def _decoded(path: Path, data: bytes, encoding: str) -> RawText:
    try:
        text = data.decode(encoding)
    except LookupError:
        raise ReadError(f"There is no encoding called {encoding!r}.") from None
    except (UnicodeDecodeError, ValueError) as error:
        raise ReadError(f"{path.name} cannot be read as {encoding}: {error}.") from error
    utf8 = text.removeprefix("\ufeff").encode("utf-8", errors="replace")
    _refuse_nul(path, utf8)
    return RawText(utf8, encoding.upper() if encoding.lower().startswith("utf") else encoding_name(encoding))


def _first_broken(data: bytes) -> int | None:
    """Place of the first byte that is not UTF-8; found piece by piece, so that no decoded copy of the whole is made."""
    start = 0
    while start < len(data):
        end = min(start + _CHUNK, len(data))
        # A piece ends before a character begins.
        while end < len(data) and data[end] & 0xC0 == 0x80 and end > start + 1:
            end -= 1
        piece = data[start:end]
        if not piece.isascii():
            try:
                piece.decode("utf-8")
            except UnicodeDecodeError as error:
                return start + error.start
        start = end
    return None


def _refuse_long_lines(path: Path, utf8: bytes) -> None:
    """Raise ReadError for a line that is longer than any of a table."""
    start = 0
    while start + LONGEST_LINE < len(utf8):
        end = utf8.rfind(b"\n", start, start + LONGEST_LINE)
        if end < 0:
            line = sum(utf8.count(b"\n", at, min(at + _CHUNK, start)) for at in range(0, start, _CHUNK)) + 1
            most = plural(LONGEST_LINE >> 20, "megabyte")
            raise ReadError(f"Line {line} of {path.name} is longer than {most}; no line of a table is.")
        start = end + 1


def find_byte(data: bytes, byte: bytes, first: int = 0) -> int:
    """Place of the first ``byte`` from ``first`` on, −1 where there is none.

    Long data are searched piece by piece, so that other threads are not kept waiting.
    """
    for start in range(first, len(data), _CHUNK):
        at = data.find(byte, start, start + _CHUNK)
        if at >= 0:
            return at
    return -1


def _refuse_nul(path: Path, data: bytes) -> None:
    at = find_byte(data, b"\0")
    if at >= 0:
        line = data.count(b"\n", 0, at) + 1
        raise ReadError(f"{path.name} is not a text table: line {line} holds a NUL byte (byte {at + 1} of the file).")


def _guessed(path: Path, data: bytes, broken: int) -> RawText:
    """Text that is not UTF-8, by the encoding in which its words come out best."""
    line = data.count(b"\n", 0, broken) + 1
    inferred = infer_encoding(_sampled(data, broken))
    if inferred is None:
        raise ReadError(f"{path.name} is not readable text: line {line} is neither UTF-8 nor any known encoding.")
    name = encoding_name(inferred.name)
    try:
        text = data.decode(inferred.name)
    except (UnicodeDecodeError, LookupError) as error:
        raise ReadError(
            f"{path.name} looks like {name}, but not all of it can be read so; save it as UTF-8 and try again."
        ) from error
    note = f"Line {line} is not UTF-8; the file was read as {name}, the encoding in which its words come out best."
    return RawText(text.encode("utf-8"), name, (note,), inferred.questions)


def _sampled(data: bytes, broken: int) -> bytes:
    """Whole lines from the first that is not UTF-8 on, and from evenly taken places below."""
    parts = []
    for start in range(broken, len(data), max((len(data) - broken) // _WINDOWS, _GUESS_FROM)):
        begin = data.rfind(b"\n", 0, start) + 1
        end = data.find(b"\n", min(begin + _GUESS_FROM, len(data)))
        parts.append(data[begin : end if end >= 0 else len(data)])
    return b"\n".join(parts)
