"""What a written report carries to be checked: the document it was made from, every printed figure, and a seal.

The format is described in ``docs/report-data.md``.
"""

import hashlib
import re
from dataclasses import dataclass
from math import isfinite
from typing import Any

import msgspec

from culvix.errors import ReadError
from culvix.json_text import check_json_size
from culvix.report.parts import Report
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.document import Document
from culvix.study.document.document_format import decode_document, encode_document
from culvix.version import VERSION

__all__ = ["FORMAT", "SEAL", "Carried", "carried_data", "figure_rows", "is_sealed_whole", "read_carried", "sealed"]

FORMAT = "culvix-report/1"
SEAL = "culvix-seal:" + "0" * 64
"""What stands in a file where its seal comes when it is whole."""

_SEAL = re.compile(rb"culvix-seal:([0-9a-f]{64})")

FigureRow = tuple[str, float | int | None, str]
"""Key, exact value and printed text of a figure."""


@dataclass(frozen=True, eq=False)
class Carried:
    """What was read from a report: ``written`` is the day that stands in it, ``sha256`` that of its source."""

    written: str
    sha256: str
    source: str
    document: Document
    figures: tuple[FigureRow, ...]


def figure_rows(report: Report) -> list[FigureRow]:
    """Every printed figure of ``report`` in order; a value that is no finite number has none."""
    return [
        (each.key, each.value if each.value is not None and isfinite(each.value) else None, each.text)
        for each in report.figures
    ]


def carried_data(workspace: Workspace, report: Report, written: str) -> str:
    """The data as JSON in ASCII."""
    source = workspace.table.source
    plain = {
        "format": FORMAT,
        "version": VERSION,
        "written": written,
        "source": {"name": source.name, "sha256": source.sha256},
        "document": msgspec.Raw(encode_document(workspace.document)),
        "figures": figure_rows(report),
    }
    text = msgspec.json.encode(plain).decode()
    return "".join(each if each.isascii() else _escaped(each) for each in text)


def _escaped(character: str) -> str:
    """A character beyond ASCII as JSON writes it."""
    units = character.encode("utf-16-be")
    return "".join(f"\\u{units[k]:02x}{units[k + 1]:02x}" for k in range(0, len(units), 2))


class _Source(msgspec.Struct):
    name: str
    sha256: str


class _Data(msgspec.Struct):
    """The data as they are decoded, the document still as it was written."""

    format: str
    written: str
    source: _Source
    document: msgspec.Raw
    figures: list[tuple[str, float | int | None, str]]


def read_carried(data: bytes | str) -> Carried:
    """What ``data`` says. Raises ReadError where it is no data of a report."""
    check_json_size(data)
    try:
        found: Any = msgspec.json.decode(data, type=_Data)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise ReadError(f"The data in this report cannot be read: {str(error)[:200]}.") from error
    if found.format != FORMAT:
        raise ReadError(f"The data in this report are of the format {found.format[:40]!r}, not {FORMAT}.")
    document = decode_document(bytes(found.document))
    return Carried(found.written, found.source.sha256, found.source.name, document, tuple(found.figures))


def sealed(data: bytes) -> bytes:
    """A file with `SEAL` near its end, the zeros replaced by the checksum (SHA-256) of the whole with these zeros."""
    before, _, after = data.rpartition(SEAL.encode())
    return before + f"culvix-seal:{hashlib.sha256(data).hexdigest()}".encode() + after


def is_sealed_whole(data: bytes) -> bool:
    """Whether a file is byte for byte what was written."""
    found = list(_SEAL.finditer(data))
    if not found:
        return False
    last = found[-1]
    empty = data[: last.start()] + SEAL.encode() + data[last.end() :]
    return hashlib.sha256(empty).hexdigest().encode() == last[1]
