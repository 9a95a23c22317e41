"""The first rows of a file, as it would be read, at once."""

from dataclasses import replace
from pathlib import Path

from culvix.errors import ReadError
from culvix.tables.model.options.read_options import PLAIN, ReadOptions
from culvix.tables.model.raw_table import RawTable
from culvix.tables.reading.sources import as_text, read_head
from culvix.tables.text.delimited import read_delimited
from culvix.tables.text.dialect_guess import guess_dialect
from culvix.tables.text.record_splitter import record_end

__all__ = ["preview"]

_ENOUGH = 1 << 17
_HEAD_BYTES = 1 << 20


def preview(path: Path, options: ReadOptions = PLAIN) -> RawTable | None:
    """The first rows of the delimited text at ``path`` under ``options``; None for a file of another kind.

    Raises ReadError as reading the whole would, as far as the beginning of the file shows it.
    """
    head = read_head(path, _HEAD_BYTES)
    if head.kind != "text":
        return None
    whole = head.size < _HEAD_BYTES and not head.packing
    text = as_text(path, head.data if whole else _without_torn_end(head.data), options.encoding)
    utf8 = text.utf8
    quote = options.dialect.quote if options.dialect is not None else '"'
    if not whole or len(utf8) > _ENOUGH:
        utf8 = utf8[: record_end(utf8[:_ENOUGH], quote) or record_end(utf8, quote)]
    if not utf8:
        raise ReadError(f"{path.name} has no end of a line within its first megabyte.")
    dialect = options.dialect_of(lambda: guess_dialect(utf8))
    raw = read_delimited(utf8, dialect, encoding=text.encoding, ragged=options.ragged)
    return replace(raw, notes=(*text.notes, *raw.notes), questions=(*text.questions, *raw.questions))


def _without_torn_end(data: bytes) -> bytes:
    """``data`` up to its last line end, so that no character is cut in two."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        end = max(data.rfind(b"\n\0"), data.rfind(b"\0\n"))
        return data[: end - end % 2 + 2] if end > 0 else data
    return data[: data.rfind(b"\n") + 1] or data
