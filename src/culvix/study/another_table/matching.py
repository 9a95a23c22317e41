"""Which columns of two tables are the same: by name, by name but for how it is written, or by what is in them."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher

from culvix.stats.groups.kolmogorov_smirnov import two_sample_distance
from culvix.tables.model.table import Column, Role, Table

__all__ = ["MatchedColumns", "Matching", "match_columns"]

_FEWEST = 20
"""With fewer values what is in a column says little."""
_SAME_VALUES = 0.12
"""Up to this distance of their distributions two columns may be one under two names."""
_SAME_LEVELS = 0.7
"""From this share of common levels on, too."""
_MOST_LEVELS = 200
_ALIKE = 0.55
"""How alike two names are at least, from 0 to 1, where what is in the columns says nothing against it."""
_BY_CONTENT = 0.35
"""How alike names are at least where what is in the columns speaks for them."""


@dataclass(frozen=True)
class MatchedColumns:
    """A column ``here`` that is the one called ``there`` in the other table; ``why`` where the names differ."""

    here: str
    there: str
    why: str = ""

    @property
    def is_proposed(self) -> bool:
        """Whether the names do not say it themselves."""
        return bool(self.why)


@dataclass(frozen=True)
class Matching:
    """The ``pairs`` of columns in the order of this table, those ``new`` in it, and those that are ``gone``."""

    pairs: tuple[MatchedColumns, ...]
    new: tuple[str, ...]
    gone: tuple[str, ...]


def match_columns(here: Table, there: Table) -> Matching:
    """The columns of ``here`` with those of ``there``: names first, then what is in columns without a namesake."""
    found = {column.name: MatchedColumns(column.name, column.name) for column in here if column.name in there}
    left = [column for column in here if column.name not in found]
    other = [column for column in there if column.name not in found]
    by_spelling: dict[str, list[str]] = {}
    for column in other:
        by_spelling.setdefault(_plain(column.name), []).append(column.name)
    for column in left:
        same = by_spelling.get(_plain(column.name), [])
        if len(same) == 1 and same[0] in {each.name for each in other}:
            found[column.name] = MatchedColumns(column.name, same[0], "written otherwise")
            other = [each for each in other if each.name != same[0]]
    left = [column for column in left if column.name not in found]
    found |= {pair.here: pair for pair in _by_content(left, other)}
    taken = {pair.there for pair in found.values()}
    return Matching(
        tuple(found[column.name] for column in here if column.name in found),
        tuple(column.name for column in here if column.name not in found),
        tuple(column.name for column in there if column.name not in taken),
    )


def _plain(name: str) -> str:
    """A name without marks and capitals."""
    return re.sub(r"[\W_]+", "", name).casefold()


def _by_content(left: Sequence[Column], other: Sequence[Column]) -> list[MatchedColumns]:
    """The likeliest pairs first, each column in one of them."""
    scored = sorted(
        ((score, why, a.name, b.name) for a in left for b in other for score, why in [_likeness(a, b)] if why),
        key=lambda each: -each[0],
    )
    pairs: list[MatchedColumns] = []
    for _, why, a, b in scored:
        if all(a != pair.here and b != pair.there for pair in pairs):
            pairs.append(MatchedColumns(a, b, why))
    return pairs


def _likeness(a: Column, b: Column) -> tuple[float, str]:
    """How likely two columns are one, and why; no reason where they are not."""
    names = SequenceMatcher(None, a.name.casefold(), b.name.casefold()).ratio()
    if a.is_numeric != b.is_numeric:
        return 0.0, ""
    same = _same_content(a, b)
    if same and names >= _BY_CONTENT:
        return 1 + names, f"{same}, and a name like it"
    # Identifiers and texts of two tables have nothing in common but their kind.
    telling = a.role in (Role.IDENTIFIER, Role.TEXT, Role.DATE) and a.role is b.role
    if names >= _ALIKE and (telling or same is None):
        return names, "a name like it"
    return 0.0, ""


def _same_content(a: Column, b: Column) -> str | None:
    """What speaks for it in the columns; empty where it speaks against, None where it says nothing."""
    if a.is_numeric:
        if min(a.sample.n, b.sample.n) < _FEWEST:
            return None
        distance = two_sample_distance(a.sample.sorted, b.sample.sorted)
        return "values distributed alike" if distance <= _SAME_VALUES else ""
    if a.role in (Role.IDENTIFIER, Role.TEXT, Role.DATE):
        return None
    levels = [set(column.texts_up_to(_MOST_LEVELS) or ()) for column in (a, b)]
    if not all(levels):
        return None
    common = len(levels[0] & levels[1]) / len(levels[0] | levels[1])
    return "the same levels" if common >= _SAME_LEVELS else ""
