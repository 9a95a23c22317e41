"""The guide: what each statistic, test and method tells, how it is computed here, when it misleads, and its source."""

import re
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

__all__ = ["Entry", "entries", "entry_for", "links_in", "related"]


@dataclass(frozen=True)
class Entry:
    """One entry, under the first of the ``keys`` that the tables of methods and the profile document use for it."""

    keys: tuple[str, ...]
    title: str
    tells: str
    computed: str
    misleads: str
    source: str

    @property
    def key(self) -> str:
        return self.keys[0]


@cache
def entries() -> dict[str, Entry]:
    """All entries by key, in reading order."""
    found = {}
    for block in files("culvix.guide").joinpath("entries.md").read_text("utf-8").split("# ")[1:]:
        head, *lines = block.strip().splitlines()
        keys, title = head.split(" | ")
        parts = dict(line.split(": ", 1) for line in lines if line)
        entry = Entry(tuple(keys.split()), title, **parts)
        found[entry.key] = entry
    return found


@cache
def _by_any_key() -> dict[str, Entry]:
    return {key: entry for entry in entries().values() for key in entry.keys}


def entry_for(key: str) -> Entry | None:
    """The entry that speaks of ``key``, under whichever of its keys."""
    return _by_any_key().get(key)


@cache
def _names() -> dict[str, Entry]:
    """What entries are called in running text: the parts of their titles, as they are written there."""
    found: dict[str, Entry] = {}
    for entry in entries().values():
        for name in re.split(r", | and ", entry.title):
            plain = name.removesuffix(" (adjusted)")
            found.setdefault(plain if plain[1:] != plain[1:].lower() else plain.lower(), entry)
    return found


@cache
def _any_name() -> re.Pattern[str]:
    longest_first = sorted(_names(), key=len, reverse=True)
    return re.compile(rf"(?<![\w-])({'|'.join(map(re.escape, longest_first))})(?![\w-])")


def links_in(text: str, besides: Entry) -> list[tuple[str, str | None]]:
    """``text`` in pieces, each with the key of the entry whose name it is, None where it is none.

    The first mention of an entry counts; of ``besides``, in whose text it stands, none.
    """
    pieces: list[tuple[str, str | None]] = []
    linked, position = {besides.key}, 0
    for match in _any_name().finditer(text):
        key = _names()[match[0]].key
        if key in linked:
            continue
        linked.add(key)
        pieces += [(text[position : match.start()], None), (match[0], key)]
        position = match.end()
    return [piece for piece in (*pieces, (text[position:], None)) if piece[0]]


def related(entry: Entry) -> list[Entry]:
    """The entries that speak of ``entry``, in reading order."""
    others = (other for other in entries().values() if other is not entry)
    return [
        other
        for other in others
        if any(key == entry.key for _, key in links_in(f"{other.tells} {other.computed} {other.misleads}", other))
    ]
