"""What is written for a missing value: which spellings are recognised, where they stand, and where one is a level.

A cell is missing where it is empty or holds a token such as NA, null or "?". Tokens are recognised in every column. A
few are ordinary words or signs, too: "None" may be one of three treatments, "NA" the code of a country, "-" the result
of a test. Where the other cells of a column say so the token is a level, and the reason is kept with it.
"""

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Ints
from culvix.stats.display import per_cent, plural
from culvix.tables.cells.token_spellings import SPELLINGS
from culvix.tables.model.cell_texts import RawColumn

__all__ = [
    "Token",
    "classify_tokens",
    "count_spellings",
    "find_tokens",
    "rows_of_tokens",
]

_KNOWN = pl.Series(sorted(SPELLINGS), dtype=pl.String)
_NOTHING = frozenset(("none", "nil"))
_SIGNS = frozenset(("-", "–", "—", "?", ".", "*"))
_FEW = 12
_SHARE = 0.05
"""So large a share of a column with few other values is a value of its own."""


@dataclass(frozen=True, eq=False)
class Token:
    """One spelling in one column: the rows (from 0, ascending) that hold it, and why it is a level, where it is one."""

    spelling: str
    rows: Ints
    level: str = ""

    @property
    def count(self) -> int:
        return int(self.rows.size)


def find_tokens(raw: RawColumn, words: pl.Series) -> tuple[Token, ...]:
    """The spellings that stand in ``raw``, whose odd cells, stripped, are ``words``."""
    if not raw.nonnumeric_rows.size:
        return ()
    found = words.is_in(_KNOWN.implode()).fill_null(False)
    if not bool(found.any()):
        return ()
    rows = raw.nonnumeric_rows[found.to_numpy()]
    texts = words.filter(found)
    spellings = texts.unique(maintain_order=True).to_list()
    return tuple(Token(each, rows[(texts == each).to_numpy()]) for each in spellings)


def classify_tokens(found: Sequence[tuple[Token, ...]], raws: Sequence[RawColumn]) -> list[tuple[Token, ...]]:
    """The tokens of all columns, each marked where the other cells of its column show it to be a level."""
    columns_with: dict[str, int] = {}
    for tokens in found:
        for token in tokens:
            columns_with[token.spelling] = columns_with.get(token.spelling, 0) + 1
    return [
        tuple(replace(token, level=_level(token, tokens, raw, columns_with[token.spelling])) for token in tokens)
        for tokens, raw in zip(found, raws, strict=True)
    ]


def _level(token: Token, tokens: Sequence[Token], raw: RawColumn, columns: int) -> str:
    """Why ``token`` is a value of its own in the column ``raw``; empty where it stands for a missing one."""
    word = token.spelling.lower()
    if word not in _NOTHING and word not in _SIGNS and token.spelling not in ("NA", "Na"):
        return ""
    texts = raw.nonnumeric_texts.str.strip_chars()
    texts = texts.filter((texts != "").fill_null(False))
    numbers = len(raw) - int(raw.nonnumeric_rows.size)
    if 2 * numbers >= numbers + len(texts) - sum(each.count for each in tokens):
        return _only_mark(token, texts, numbers, len(raw))
    others = [text for text in texts.unique().head(200).to_list() if text != token.spelling]
    share = token.count / max(len(texts), 1)
    if word in _NOTHING and others and len(others) <= _FEW and share >= _SHARE:
        return f"one of {plural(len(others) + 1, 'value')}, in {per_cent(share)} of the cells"
    if word in ("-", "–", "—") and any(re.fullmatch(r"\++|pos(itive)?|neg(ative)?", other, re.I) for other in others):
        return "the counterpart of + beside it"
    if columns == 1 and len(others) >= 3:
        if token.spelling == "NA" and all(re.fullmatch(r"[A-Z]{2}", other) for other in others):
            return "one of the codes of two letters, and in no other column"
        if token.spelling == "Na" and all(re.fullmatch(r"[A-Z][a-z]?", other) for other in others):
            return "one of the symbols of one or two letters"
    return ""


def _only_mark(token: Token, texts: pl.Series, numbers: int, rows: int) -> str:
    """A sign that is all there is in a column of marks and empty cells."""
    alone = not numbers and token.count == len(texts) < rows and token.spelling.lower() in _SIGNS
    return "the only mark in the column, beside empty cells" if alone else ""


def rows_of_tokens(tokens: Collection[Token], excluded: Collection[str]) -> Ints:
    """Rows (ascending, from 0) whose cells are missing by a token, but for ``excluded`` spellings and levels."""
    rows = [token.rows for token in tokens if not token.level and token.spelling not in excluded]
    return np.sort(np.concatenate(rows)) if rows else np.zeros(0, dtype=np.int64)


def count_spellings(texts: pl.Series) -> Mapping[str, int]:
    """How often each spelling stands among ``texts``, the most frequent first."""
    counted = texts.rename("text").str.strip_chars().value_counts(name="n")
    counted = counted.sort(["n", "text"], descending=[True, False])
    return {str(text): int(n) for text, n in counted.iter_rows()}
