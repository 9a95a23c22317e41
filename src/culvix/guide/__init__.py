"""The guide: what each statistic, test and method tells, how it is computed here, when it misleads, and its source."""

from dataclasses import dataclass
from functools import cache
from importlib.resources import files

__all__ = ["Entry", "entries"]


@dataclass(frozen=True)
class Entry:
    """One entry, under the key that the tables of methods and the profile document use."""

    key: str
    title: str
    tells: str
    computed: str
    misleads: str
    source: str


@cache
def entries() -> dict[str, Entry]:
    """All entries by key, in reading order."""
    found = {}
    for block in files("culvix.guide").joinpath("entries.md").read_text("utf-8").split("# ")[1:]:
        head, *lines = block.strip().splitlines()
        key, title = head.split(" | ")
        parts = dict(line.split(": ", 1) for line in lines if line)
        found[key] = Entry(key, title, **parts)
    return found
