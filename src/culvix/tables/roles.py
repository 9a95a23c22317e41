"""The role of a column, inferred from its cells and its name, always with the reason."""

import re
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.stats.arrays import Floats, Ints
from culvix.stats.display import count, plural
from culvix.tables.cell_texts import CellTexts
from culvix.tables.cells import ParsedCells
from culvix.tables.table import Role

__all__ = ["YES_NO_WORDS", "Judged", "infer_role"]

YES_NO_WORDS: dict[str, float] = {
    **dict.fromkeys(("yes", "y", "true", "t"), 1.0),
    **dict.fromkeys(("no", "n", "false", "f"), 0.0),
}

Numbers = Floats | Ints

_ID_NAME = re.compile(r"(^|[_\s-])(id|tag|key|code|nr|no|number|serial|uuid|barcode|zip|postcode)$", re.I)
_RANK_NAME = re.compile(r"score|grade|rank|stage|level|rating|class|likert|severity|index_\d", re.I)
_COUNT_NAME = re.compile(r"(^|[_\s])(count|counts|n|num|visits|events|eggs|items)([_\s]|$)", re.I)
_ISO_DATE = r"^\d{4}-\d{2}-\d{2}([T ]\d{2}:\d{2}(:\d{2}(\.\d+)?)?)?(Z|[+-]\d{2}:?\d{2})?$"
_FEW = 12
_SOME = 500
_MANY = 4096


@dataclass(frozen=True)
class Judged:
    """A role and why it was chosen."""

    role: Role
    reason: str


def infer_role(name: str, text: CellTexts, cells: ParsedCells, *, has_unit: bool = False) -> Judged:
    """Role of a column called ``name`` with the cells ``text``, already parsed."""
    present = len(text) - int(cells.missing.sum())
    if not present:
        return Judged(Role.TEXT, "every cell is empty")
    if 2 * cells.numbers >= present:
        return _numeric(name, text, cells, has_unit)
    texts = text.all.filter(pl.Series(~cells.missing)) if cells.missing.any() else text.all
    return _textual(texts.str.strip_chars(), present)


def _numeric(name: str, text: CellTexts, cells: ParsedCells, has_unit: bool) -> Judged:
    finite = cells.values[np.isfinite(cells.values)]
    if not finite.size:
        return Judged(Role.MEASURE, "numbers, none of them finite")
    if not cells.whole:
        return Judged(Role.MEASURE, "numbers with decimals")
    exact = None if cells.integers is None else cells.integers[np.isfinite(cells.values)]
    distinct: Numbers = np.unique(finite) if exact is None else np.unique(exact)
    if _leading_zeros(text, cells):
        return Judged(Role.IDENTIFIER, "whole numbers written with leading zeros")
    if distinct.size == finite.size and finite.size > 2 and (_ID_NAME.search(name) or _is_run(distinct)):
        why = "named like an identifier" if _ID_NAME.search(name) else "consecutive"
        return Judged(Role.IDENTIFIER, f"{plural(finite.size, 'whole number')}, all different and {why}")
    if distinct.size == 2 and distinct.tolist() == [0.0, 1.0]:
        return Judged(Role.YES_NO, "only the values 0 and 1")
    if re.search(r"(^|[_\s])year$", name, re.I) and distinct[0] >= 1500 and distinct[-1] <= 2200:
        return Judged(Role.DATE, "years")
    return _whole(name, finite, distinct, has_unit)


def _whole(name: str, finite: Floats, distinct: Numbers, has_unit: bool) -> Judged:
    few = f"{count(distinct.size)} different whole numbers from {distinct[0]:g} to {distinct[-1]:g}"
    if _RANK_NAME.search(name) and distinct.size <= _FEW:
        return Judged(Role.ORDERED, f"{few}, and named like a rank")
    if distinct[0] < 0 or has_unit:
        return Judged(Role.MEASURE, "whole numbers with a unit" if has_unit else "whole numbers, some negative")
    if _COUNT_NAME.search(name):
        return Judged(Role.COUNT, "whole numbers from 0 up, and named like a count")
    if distinct[0] == 0 or float(np.median(finite)) < 20:
        return Judged(Role.COUNT, "whole numbers from 0 up, small or with zeros")
    return Judged(Role.MEASURE, "whole numbers, large and without zeros")


def _leading_zeros(text: CellTexts, cells: ParsedCells) -> bool:
    """Whether a tenth of the numbers begin with a zero, judged by evenly taken cells of a long column."""
    rows = np.flatnonzero(np.isfinite(cells.values))
    some = text.at(rows[:: max(rows.size // _MANY, 1)])
    padded = int(some.str.contains(r"^\s*0\d+\s*$").sum() or 0)
    return padded > 0 and 10 * padded >= len(some)


def _is_run(distinct: Numbers) -> bool:
    return distinct.size >= 10 and bool((np.diff(distinct) == 1).all()) and distinct[0] in (0.0, 1.0)


def _textual(cells: pl.Series, present: int) -> Judged:
    distinct = int(cells.hash().n_unique())
    lowered = set(cells.str.to_lowercase().unique().head(3).to_list()) if distinct <= 4 else set()
    if lowered and lowered <= set(YES_NO_WORDS) and len({YES_NO_WORDS[word] for word in lowered}) == 2:
        return Judged(Role.YES_NO, f"only the words {' and '.join(sorted(lowered))}, counted as 0 for no and 1 for yes")
    if bool(cells.head(_SOME).str.contains(_ISO_DATE).all()) and bool(cells.str.contains(_ISO_DATE).all()):
        return Judged(Role.DATE, "every cell is a date in the form 2026-03-18")
    if distinct >= 0.95 * present and present > 2 and not bool(cells.str.contains(r"\s").any()):
        share = "all" if distinct == present else f"{count(distinct)} of them"
        return Judged(Role.IDENTIFIER, f"{plural(present, 'cell')}, {share} different, and without spaces")
    if distinct <= max(_FEW, present // 20):
        return Judged(Role.CATEGORY, f"{plural(distinct, 'different text')} in {plural(present, 'cell')}")
    return Judged(Role.TEXT, f"{plural(distinct, 'different text')} in {plural(present, 'cell')}")
