"""How missing values are written in a table: every spelling, where it stands, and whether it counts as missing."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from culvix.stats.display import count, plural
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Column, Table

__all__ = ["MissingSpelling", "counted_as", "missing_sentence", "missing_spellings"]


@dataclass(frozen=True)
class MissingSpelling:
    """One spelling: how often it stands in which columns, and in which of them it counts as missing.

    ``levels`` says of columns why it is a value there.
    """

    spelling: str
    cells: int
    columns: tuple[str, ...]
    missing_in: tuple[str, ...]
    levels: tuple[tuple[str, str], ...] = ()

    @property
    def is_missing(self) -> bool:
        """Whether it counts as missing in any column."""
        return bool(self.missing_in)

    @property
    def about(self) -> str:
        """Where it stands and how it is taken, in words."""
        where = ", ".join(self.columns[:5]) + (" …" if len(self.columns) > 5 else "")
        words = f"{plural(self.cells, 'cell')} in {where}"
        others = [f"a value in {column}: {why}" for column, why in self.levels if column not in self.missing_in]
        return "\n".join([words, *others[:3]])


def missing_spellings(columns: Sequence[Column]) -> list[MissingSpelling]:
    """Every spelling for a missing value in ``columns``, the most frequent first; empty cells are none."""
    found: dict[str, MissingSpelling] = {}
    for column in columns:
        missing = {text: n for text, n in column.missing_by.items() if text}
        by_spelling = {token.spelling: token for token in column.tokens}
        for spelling in dict.fromkeys([*missing, *by_spelling]):
            token = by_spelling.get(spelling)
            cells = missing.get(spelling) or (token.count if token is not None else 0)
            before = found.get(spelling, MissingSpelling(spelling, 0, (), ()))
            levels = ((column.name, token.level),) if token is not None and token.level else ()
            found[spelling] = MissingSpelling(
                spelling,
                before.cells + cells,
                (*before.columns, column.name),
                (*before.missing_in, column.name) if spelling in missing else before.missing_in,
                (*before.levels, *levels),
            )
    return sorted(found.values(), key=lambda each: (-each.cells, each.spelling))


def missing_sentence(table: Table) -> str:
    """How missing values are written in ``table``, in one sentence; empty where none is missing."""
    empty = sum(column.missing - int(column.missing_written.size) for column in table)
    spelled = ["empty"] if empty else []
    spelled += [each.spelling for each in missing_spellings(table.columns) if each.is_missing]
    if not spelled:
        return "No cell is missing." if all(not column.missing for column in table) else ""
    cells = sum(column.missing for column in table)
    more = " …" if len(spelled) > 12 else ""
    return f"Missing is written as {', '.join(spelled[:12])}{more}: {count(cells)} cells in all."


def counted_as(column: Column, entry: ColumnEntry, spelling: str, *, missing: bool) -> ColumnEntry:
    """``entry`` of ``column`` with ``spelling`` counted as missing there, or taken as a value."""
    level = any(token.spelling == spelling and token.level for token in column.tokens)
    codes = tuple(code for code in entry.missing_codes if code != spelling)
    others = tuple(each for each in entry.not_missing if each != spelling)
    usual = any(token.spelling == spelling for token in column.tokens) and not level
    if missing:
        return replace(entry, missing_codes=codes if usual else (*codes, spelling), not_missing=others)
    return replace(entry, missing_codes=codes, not_missing=(*others, spelling) if usual else others)
