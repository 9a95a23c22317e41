"""Lines of a report as the simple rich text that Qt lays out, and in XML."""

import re
from html import escape

from culvix.report.parts import Text, plain

__all__ = ["MARKS", "clean", "rich"]

MARKS = {"open": "Open:", "grave": "Open, probably an error:", "settled": "Settled:"}
"""What stands in bold before a paragraph of a kind."""

_NOT_IN_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")


def clean(text: str) -> str:
    """``text`` with a mark in place of each character that neither XML nor a page of paper can hold."""
    return _NOT_IN_XML.sub("\ufffd", text)


def rich(text: Text, kind: str = "plain") -> str:
    """``text`` with what stands before a paragraph of its ``kind``."""
    mark = f"<b>{MARKS[kind]}</b> " if kind in MARKS else ""
    return mark + escape(clean(plain(text))).replace("\n", "<br>")
