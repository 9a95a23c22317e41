"""Lines of a report as the simple rich text that Qt lays out, and in XML."""

from html import escape

from culvix.report.parts import Text, plain
from culvix.visible_text import visible

__all__ = ["MARKS", "clean", "rich"]

MARKS = {"open": "Open:", "grave": "Open, probably an error:", "settled": "Settled:"}
"""What stands in bold before a paragraph of a kind."""


def clean(text: str) -> str:
    """``text`` with a mark in place of each character that neither XML nor a page of paper can hold."""
    return visible(text)


def rich(text: Text, kind: str = "plain") -> str:
    """``text`` with what stands before a paragraph of its ``kind``."""
    mark = f"<b>{MARKS[kind]}</b> " if kind in MARKS else ""
    return mark + escape(clean(plain(text))).replace("\n", "<br>")
