"""How cells that are no plain numbers are settled: one rule for each kind in a column, and the numbers it gives.

Tokens for missing values count as missing; nothing else is settled unless a rule says so. A rule stands for the whole
column and is part of its dictionary, so that it is applied again to the next file.
"""

import re
from collections.abc import Mapping
from types import MappingProxyType

import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.stats.core.arrays import Bools, Floats
from culvix.tables.cells.cell_kinds import ABOUT, KINDS, FoundKind
from culvix.tables.cells.units import conversion, spelled
from culvix.tables.model.cell_texts import CellTexts

__all__ = ["RULES", "apply_rules", "check_rules", "numbers_of", "rule_in_force"]

RULES: Mapping[str, str] = MappingProxyType(
    {
        "number": "read the number in it",
        "missing": "count it as missing",
        "unread": "leave it unread",
        "limit": "take the limit itself",
        "half": "take half the limit",
        "convert": "convert to one unit",
    }
)
"""What can be done with the cells of a kind, in words."""

_MAGNITUDES = {"k": 1e3, "K": 1e3, "M": 1e6, "mn": 1e6, "Mn": 1e6, "bn": 1e9, "Bn": 1e9}
_CORE = re.compile(r"[+\-−]?\s*(?:\d[\d.,'’ \u00a0\u202f]*\d|[.,]?\d+\.?)(?:[eE][+\-]?\d+)?")


_ABOUT = re.compile(rf"(?i)^{ABOUT}\s*")
"""What stands before a number that is only about right."""

_BY_DEFAULT = frozenset({"missing_token", "error_value"})


def rule_in_force(kind: str, rules: Mapping[str, str]) -> str:
    """How cells of ``kind`` are settled: as ``rules`` say, else tokens are missing and all others unread."""
    return rules.get(kind, "missing" if kind in _BY_DEFAULT else "unread")


def check_rules(rules: Mapping[str, str]) -> None:
    """Raise ReadError for a kind or a rule there is none of, or one that does not go with its kind."""
    for kind, rule in rules.items():
        if kind not in KINDS:
            raise ReadError(f"There is no kind of cell called {kind!r}; there are {', '.join(KINDS)}.")
        if rule not in KINDS[kind].rules:
            raise ReadError(
                f"A {KINDS[kind].name} cannot be settled by {rule!r}; there are {', '.join(KINDS[kind].rules)}."
            )


def numbers_of(kind: str, texts: pl.Series, rule: str, unit: str = "") -> Floats:
    """The number in each of ``texts`` of one kind under ``rule``, shape ``(n,)``; NaN where there is none.

    ``unit`` is the one that other units are converted to.
    """
    distinct = texts.unique(maintain_order=True)
    values = [_number(kind, text, rule, unit) for text in distinct.to_list()]
    known = pl.Series(values, dtype=pl.Float64)
    return texts.replace_strict(distinct, known, return_dtype=pl.Float64).to_numpy().astype(np.float64)


def _number(kind: str, text: str, rule: str, unit: str) -> float:
    core = _CORE.search(_ABOUT.sub("", text) if kind == "approximate" else text)
    if core is None:
        return np.nan
    digits = _plain(core.group(), comma=_comma_is_decimal(kind, core.group()))
    try:
        value = float(digits)
    except ValueError:
        return np.nan
    if kind == "magnitude_suffix":
        value *= _MAGNITUDES[text[core.end() :].strip()]
    if kind in ("accounting_negative", "trailing_minus"):
        value = -abs(value)
    if kind == "limit" and rule == "half":
        value /= 2
    if rule == "convert":
        factor = conversion(spelled(text[core.end() :]) or "", unit)
        value = np.nan if factor is None else value * factor[0] + factor[1]
    return value if np.isfinite(value) else np.nan


def _comma_is_decimal(kind: str, digits: str) -> bool:
    """Whether a comma in ``digits`` is the decimal mark: it is alone and not before just three digits."""
    if kind == "decimal_comma":
        return True
    if kind == "thousands_mark":
        return "." in digits and "," in digits and digits.rindex(",") > digits.rindex(".")
    return digits.count(",") == 1 and "." not in digits and not re.search(r"^\D*[1-9]\d{0,2},\d{3}$", digits)


def _plain(digits: str, *, comma: bool) -> str:
    bare = re.sub(r"[\s'’\u00a0\u202f]", "", digits).replace("−", "-")
    if comma:
        return bare.replace(".", "").replace(",", ".")
    if bare.count(".") > 1 or ("." in bare and "," in bare and bare.rindex(",") > bare.rindex(".")):
        return bare.replace(".", "").replace(",", ".")
    return bare.replace(",", "")


def apply_rules(
    text: CellTexts, found: Mapping[str, FoundKind], rules: Mapping[str, str]
) -> tuple[Floats, Bools, Bools]:
    """Numbers that the ``rules`` give to the ``found`` cells of ``text``, which of them are missing, and which unread.

    All three have shape ``(rows,)``: the numbers are NaN elsewhere, the masks False. Raises ReadError as `check_rules`.
    """
    check_rules(rules)
    values = np.full(len(text), np.nan)
    missing, unread = np.zeros(len(text), dtype=bool), np.zeros(len(text), dtype=bool)
    for key, kind in found.items():
        rule = rule_in_force(key, rules)
        if rule == "missing":
            missing[kind.rows] = True
        elif rule == "unread":
            unread[kind.rows] = True
        else:
            cells = text.at(kind.rows).str.strip_chars()
            values[kind.rows] = numbers_of(key, cells, rule, kind.unit)
            unread[kind.rows] = np.isnan(values[kind.rows])
    return values, missing, unread
