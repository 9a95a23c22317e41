"""Code books: which columns hold codes, and lines such as "1 = never" that say what each stands for."""

import re
from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from culvix.tables.model.table import Column, Role

__all__ = ["codes_of", "lines_of", "read_lines"]

_MOST_CODES = 30
_ROWS_READ_AT_ONCE = 50_000
_CODED = frozenset({Role.ORDERED, Role.CATEGORY, Role.YES_NO, Role.COUNT})
_BETWEEN = re.compile(r"\s*(?:=|:|\t|\N{EN DASH}|\s-\s)\s*")


def codes_of(columns: Sequence[Column]) -> list[str]:
    """The codes of ``columns``, lowest first; none where one of them is not a column of codes, or has too many."""
    found: set[str] = set()
    for column in columns:
        codes = _codes(column)
        if codes is None:
            return []
        found |= set(codes)
    return sorted(found, key=_by_size) if len(found) <= _MOST_CODES else []


def _codes(column: Column) -> list[str] | None:
    if column.role not in _CODED:
        return None
    if column.values is None:
        return column.texts_up_to(_MOST_CODES) if column.rows <= _ROWS_READ_AT_ONCE else None
    # The first rows tell whether it is worth looking at all of them.
    for rows in (slice(_ROWS_READ_AT_ONCE), slice(None)):
        numbers = np.unique(column.values[rows][np.isfinite(column.values[rows])])
        if numbers.size > _MOST_CODES:
            return None
    return [f"{number:g}" for number in numbers.tolist()]


def _by_size(code: str) -> tuple[int, float, str]:
    try:
        return 0, float(code), code
    except ValueError:
        return 1, 0.0, code.casefold()


def lines_of(codes: Iterable[str], words: Mapping[str, str]) -> str:
    """A line for each of ``codes``, and for each code besides that has a word."""
    every = [*codes, *(code for code in words if code not in codes)]
    return "\n".join(f"{code} = {words.get(code, '')}".rstrip() for code in every)


def read_lines(text: str) -> dict[str, str]:
    """The words in ``text``: a code, one of = : – or a tab, and its word in each line.

    Lines without a word are passed over. Raises ValueError, with a sentence, for a code that has two words.
    """
    words: dict[str, str] = {}
    for line in text.splitlines():
        parts = _BETWEEN.split(line.strip(), maxsplit=1)
        if len(parts) < 2 or not parts[0] or not parts[1].strip():
            continue
        code, word = parts[0].strip(), parts[1].strip()
        if words.setdefault(code, word) != word:
            raise ValueError(f"The code {code} has two words: “{words[code]}” and “{word}”.")
    return words
