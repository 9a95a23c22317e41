"""The guide: what each statistic, test and method tells, how it is computed here, when it misleads, and its source."""

from dataclasses import dataclass
from functools import cache
from importlib.resources import files

__all__ = ["Entry", "entries", "entry_for"]


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
