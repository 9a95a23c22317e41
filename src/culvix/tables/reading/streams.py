"""A delimited text taken from its file block by block, for a table of which only a part is wanted."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from culvix.errors import ReadError
from culvix.tables.reading.sources import Checksum, Content, checked_file, read_head, unpacked_pieces
from culvix.tables.text.record_splitter import record_end

__all__ = ["NotStreamed", "TextStream"]

BLOCK_BYTES = 1 << 23
_LONGEST_RECORD = 1 << 28


class NotStreamed(Exception):
    """The text is not UTF-8, so that it has to be read as a whole."""


@dataclass(eq=False)
class TextStream:
    """A text file in UTF-8, packed or not. ``head`` is its beginning, unpacked, without a byte-order mark."""

    path: Path
    head: bytes
    size: int = 0
    _digest: "hashlib._Hash" = field(default_factory=hashlib.sha256)

    @classmethod
    def open(cls, path: Path) -> "TextStream":
        """Look at the beginning of ``path``. Raises ReadError as `read_content`, and NotStreamed for no UTF-8 text."""
        head = read_head(path)
        if head.kind != "text" or head.data[:2] in (b"\xff\xfe", b"\xfe\xff"):
            raise NotStreamed
        return cls(path, head.data.removeprefix(b"\xef\xbb\xbf"))

    def blocks(self, first: int, quote: str) -> Iterator[bytes]:
        """Blocks of whole records from the byte ``first`` on, to the end of the file.

        Raises ReadError for a file that cannot be read, or changes meanwhile, or has no end of a record in sight.
        """
        left = b""
        skip = first
        for chunk in self._chunks():
            if skip:
                skip, chunk = max(skip - len(chunk), 0), chunk[skip:]
            left += chunk
            if len(left) < BLOCK_BYTES:
                continue
            end = record_end(left, quote)
            if end:
                yield self._checked(left[:end])
                left = left[end:]
            elif len(left) > _LONGEST_RECORD:
                raise ReadError(f"{self.path.name} has no end of a line within {_LONGEST_RECORD >> 20} megabytes.")
        if left:
            yield self._checked(left)

    def _chunks(self) -> Iterator[bytes]:
        with checked_file(self.path) as file:
            begun = False
            for chunk in unpacked_pieces(self.path, file, self._heard):
                yield chunk if begun else chunk.removeprefix(b"\xef\xbb\xbf")
                begun = True

    def _heard(self, packed: bytes) -> None:
        self._digest.update(packed)
        self.size += len(packed)

    def _checked(self, block: bytes) -> bytes:
        if b"\0" in block:
            raise ReadError(f"{self.path.name} is not a text table: it holds a NUL byte.")
        if not block.isascii():
            try:
                block.decode("utf-8")
            except UnicodeDecodeError:
                raise NotStreamed from None
        return block

    def content(self) -> Content:
        """What is known of the file once its blocks have been taken to the end."""
        return Content(self.path, b"", "text", self.size, Checksum.known(self._digest.hexdigest()))
