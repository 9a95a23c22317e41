"""What stands in a written report: the data it carries, and the words that a reader sees."""

import io
import logging
import re
import unicodedata
import zipfile
from collections.abc import Callable
from html.parser import HTMLParser
from pathlib import Path
from xml.etree.ElementTree import fromstring

import docx
import pypdf
from docx.table import Table as WordTable

from culvix.errors import ReadError
from culvix.report.formats.docx import CARRIED_PART
from culvix.report.formats.pdf import ATTACHMENT

__all__ = ["carried_in", "visible_words"]

_NOTHING_CARRIED = "This file carries no data of a report by Culvix, so that it cannot be computed anew."


_MOST_UNPACKED = 1 << 28
# What the library remarks on a damaged file is for no terminal.
logging.getLogger("pypdf").addHandler(logging.NullHandler())


class _Seen(HTMLParser):
    """Collects the words and exact values of a page, and the data it carries."""

    def __init__(self) -> None:
        super().__init__()
        self.words: list[str] = []
        self.carried = ""
        self._hidden: list[str] = []
        self._in_data = False

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag in ("style", "script", "svg"):
            self._hidden.append(tag)
            self._in_data = tag == "script" and dict(attrs).get("id") == "culvix-report"
            if tag != "svg":
                return
        if not self._hidden or tag == "svg":
            given = dict(attrs)
            self.words += [f"{name}={given[name]}" for name in ("value", "aria-label") if given.get(name)]

    def handle_endtag(self, tag: str) -> None:
        if self._hidden and self._hidden[-1] == tag:
            self._hidden.pop()
            self._in_data = False

    def handle_data(self, data: str) -> None:
        if self._in_data:
            self.carried += data
        elif not self._hidden:
            self.words += data.split()


def _html(data: bytes) -> _Seen:
    seen = _Seen()
    seen.feed(data.decode("utf-8", errors="replace"))
    return seen


def _html_carried(data: bytes) -> str:
    return _html(data).carried


def _html_words(data: bytes) -> list[str]:
    return _html(data).words


def _docx_carried(data: bytes) -> str:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        # No more is ever unpacked than an entry says that it has.
        if sum(entry.file_size for entry in archive.infolist()) > _MOST_UNPACKED:
            raise ReadError("It unpacks to more than any report.")
        if CARRIED_PART not in archive.namelist():
            return ""
        return fromstring(archive.read(CARRIED_PART)).text or ""


def _docx_words(data: bytes) -> list[str]:
    document = docx.Document(io.BytesIO(data))
    words: list[str] = []
    for block in document.iter_inner_content():
        if isinstance(block, WordTable):
            words += [word for row in block.rows for cell in row.cells for word in cell.text.split()]
        else:
            words += block.text.split()
            words += [str(each.get("descr")) for each in block._p.iter("{*}docPr")]
    return words


def _pdf_carried(data: bytes) -> str:
    found = pypdf.PdfReader(io.BytesIO(data)).attachments.get(ATTACHMENT)
    return found[0].decode() if found else ""


def _pdf_words(data: bytes) -> list[str]:
    text = " ".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(data)).pages)
    # How words are set, and where lines end, is a matter of the page.
    return list(re.sub(r"\s+", "", unicodedata.normalize("NFKC", text)))


_CARRIED: dict[str, Callable[[bytes], str]] = {".html": _html_carried, ".docx": _docx_carried, ".pdf": _pdf_carried}
_WORDS: dict[str, Callable[[bytes], list[str]]] = {".html": _html_words, ".docx": _docx_words, ".pdf": _pdf_words}


def _kind(data: bytes) -> str:
    """The suffix of the format that ``data`` are in. Raises ReadError where they are in none."""
    start = data[:1024].lstrip()
    if start.startswith(b"%PDF-"):
        return ".pdf"
    if start.startswith(b"PK"):
        return ".docx"
    if start[:9].lower() == b"<!doctype":
        return ".html"
    raise ReadError("This is no report: neither HTML, nor PDF, nor a document of a word processor.")


def carried_in(path: Path, data: bytes) -> tuple[str, str]:
    """The format of the report in ``data``, by its suffix, and what it carries. Raises ReadError without these."""
    kind = _kind(data)
    try:
        carried = _CARRIED[kind](data)
    except Exception as error:  # whatever the libraries make of a damaged file
        raise ReadError(f"{path.name} is damaged: {str(error)[:200]}.") from error
    if not carried:
        raise ReadError(_NOTHING_CARRIED)
    return kind, carried


def visible_words(kind: str, data: bytes) -> list[str]:
    """What a reader sees in a report of a format: its words, for a PDF its letters, in order. Raises ReadError."""
    try:
        return _WORDS[kind](data)
    except Exception as error:  # whatever the libraries make of a damaged file
        raise ReadError(f"This report is damaged: {str(error)[:200]}.") from error
