"""JSON from somebody else's file, refused before it takes more memory than there is."""

import json
from typing import Any

from culvix.errors import ReadError

__all__ = ["check_json_size", "plain_json"]

_MOST_BYTES = 1 << 29
_OBJECT, _LIST, _ITEM = 232, 64, 60
"""Bytes that an object, a list and each of their items take once they are read, at the most or nearly so."""


def check_json_size(text: str | bytes) -> None:
    """Raise ReadError where ``text`` would take more memory than anything that the program writes."""
    if len(text) < _MOST_BYTES >> 8:
        return
    objects, lists, items = (
        (text.count(b"{"), text.count(b"["), text.count(b","))
        if isinstance(text, bytes)
        else (text.count("{"), text.count("["), text.count(","))
    )
    if len(text) + _OBJECT * objects + _LIST * lists + _ITEM * items > _MOST_BYTES:
        raise ReadError(
            f"It holds {(objects + lists + items) >> 20} million parts, more than any file of its kind has."
        )


def plain_json(text: str | bytes) -> Any:
    """What ``text`` says. Raises ReadError for one that is too large, ValueError and RecursionError for no JSON."""
    check_json_size(text)
    return json.loads(text)
