"""What the cells that are no plain numbers are: missing tokens, decimal commas, limits, units, dates and so on.

Only the different texts of a column are looked at, each once. A kind is told from the text alone, save one: "1,234" is
a decimal comma where other cells of the column can only be that, and otherwise a thousands mark.
"""

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Ints
from culvix.tables.cells.token_spellings import ERROR_VALUES
from culvix.tables.cells.units import conversion, spelled
from culvix.tables.model.cell_texts import CellTexts

__all__ = ["ABOUT", "KINDS", "FoundKind", "Kind", "find_kinds"]

_NUMBER = r"[+\-−]?(?:\d+\.?\d*|\.\d+)(?:[eE][+\-]?\d+)?"
_COMMA_NUMBER = r"[+\-−]?\d*,\d+(?:[eE][+\-]?\d+)?"
_ANY_NUMBER = r"[+\-−]?(?:\d[\d.,'’ \x{00A0}\x{202F}]*\d|\d)(?:[eE][+\-]?\d+)?"
_CODES = "EUR|USD|GBP|CHF|JPY|SEK|NOK|DKK|PLN|CZK|CAD|AUD|INR|CNY"
_SIGNS = r"\p{Sc}"
_SAME_MONEY = {"EUR": "€", "USD": "$", "GBP": "£", "JPY": "¥"}
_WORDS = (
    r"(?i)^(?:n\.?\s?d\.?|n\.?k\.?|miss|unknown|not applicable|not known|not tested|void|x+|\*+|-{2,}|\.{2,}|\?{2,})$"
)
"""Words that stand for a missing number in a column of numbers; in one of words they may be levels."""

_ERRORS = "|".join(re.escape(word) for word in ERROR_VALUES)
_SUFFIX = r"(°\s?[CFK]|[a-zA-Zµμ%‰]{1,7}[²³23]?(?:/[0-9]{0,3}[a-zA-Zµμ]{1,5}[²³23]?)?)"
ABOUT = r"(?:ca\.?|circa|approx\.?|approximately|about|~|≈)"
_NEVER = r"$.^"
"""Told from the other cells of the column, not from the text alone."""

_MONTH = r"(?i:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*"
_DATE = (
    r"^(?:\d{4}[-/.]\d{1,2}[-/.]\d{1,2}(?:[T ]\d{1,2}:\d{2}(?::\d{2}(?:\.\d+)?)?(?:Z|[+\-]\d{2}:?\d{2})?)?|"
    r"\d{1,2}[-/.]\d{1,2}[-/.]\d{4}(?:\s\d{1,2}:\d{2}(?::\d{2})?)?|"
    rf"\d{{1,2}}[ .\-/]+{_MONTH}[ .,\-/]+\d{{2,4}}|{_MONTH}\s+\d{{1,2}},?\s+\d{{4}}|"
    r"\d{4}[ -]?Q[1-4]|\d{4}[ -]?W\d{1,2})$"
)


@dataclass(frozen=True)
class Kind:
    """A kind of cell: what it is called, the pattern that tells it, and what to do with it unless told otherwise.

    ``rules`` are the ways to settle it, the suggested one first; ``pattern`` is matched against the stripped text.
    """

    key: str
    name: str
    pattern: str
    rules: tuple[str, ...]


def _table(*rows: Kind) -> Mapping[str, Kind]:
    return MappingProxyType({row.key: row for row in rows})


KINDS = _table(
    Kind("error_value", "error value of a spreadsheet", rf"(?i)^(?:{_ERRORS})$", ("missing", "unread")),
    Kind("missing_token", "missing token", _WORDS, ("missing", "unread")),
    Kind("limit", "limit", rf"^[<>≤≥]=?\s*(?:{_ANY_NUMBER}|{_COMMA_NUMBER})$", ("limit", "half", "missing", "unread")),
    Kind(
        "approximate",
        "number with “about” before it",
        rf"(?i)^{ABOUT}\s*(?:{_ANY_NUMBER}|{_COMMA_NUMBER})$",
        ("number", "missing", "unread"),
    ),
    Kind(
        "uncertain",
        "number with its uncertainty",
        rf"^(?:{_NUMBER}|{_COMMA_NUMBER})\s*(?:±|\+/-|\+-)\s*(?:{_NUMBER}|{_COMMA_NUMBER})$",
        ("number", "missing", "unread"),
    ),
    Kind("date", "date", _DATE, ("unread", "missing")),
    Kind(
        "range",
        "range of numbers",
        rf"(?i)^(?:{_NUMBER}|{_COMMA_NUMBER})\s*(?:-|–|—|to|\.\.)\s*(?:{_NUMBER}|{_COMMA_NUMBER})\+?$",
        ("unread", "missing"),
    ),
    Kind("percent", "per cent sign", rf"^(?:{_ANY_NUMBER}|{_COMMA_NUMBER})\s*%$", ("number", "missing", "unread")),
    Kind(
        "currency",
        "currency sign",
        rf"^(?:[+\-−]?\s*(?:{_SIGNS}|(?:{_CODES})\s)\s*{_ANY_NUMBER}|{_ANY_NUMBER}\s*(?:{_SIGNS}|\s(?:{_CODES})))$",
        ("number", "missing", "unread"),
    ),
    Kind(
        "magnitude_suffix",
        "magnitude suffix",
        rf"^(?:{_ANY_NUMBER}|{_COMMA_NUMBER})\s?(?:k|K|M|mn|Mn|bn|Bn)$",
        ("number", "missing", "unread"),
    ),
    Kind(
        "true_minus", "true minus sign", r"^−(?:\d+\.?\d*|\.\d+)(?:[eE][+\-−]?\d+)?$", ("number", "missing", "unread")
    ),
    Kind(
        "accounting_negative",
        "negative in brackets",
        rf"^\((?:{_SIGNS}\s*)?(?:{_ANY_NUMBER}|{_COMMA_NUMBER})(?:\s*{_SIGNS})?\)$",
        ("number", "missing", "unread"),
    ),
    Kind(
        "trailing_minus",
        "minus sign behind",
        rf"^(?:{_ANY_NUMBER}|{_COMMA_NUMBER})\s?[\-−]$",
        ("number", "missing", "unread"),
    ),
    Kind("decimal_point", "decimal point", r"^[+\-−]?\d*\.\d+(?:[eE][+\-]?\d+)?$", ("number", "missing", "unread")),
    Kind("decimal_comma", "decimal comma", rf"^{_COMMA_NUMBER}$", ("number", "missing", "unread")),
    Kind(
        "thousands_mark",
        "thousands mark",
        r"^[+\-−]?\d{1,3}(?:(?:,\d{3})+(?:\.\d+)?|(?:['’]\d{3})+(?:[.,]\d+)?|(?:[ \x{00A0}\x{202F}]\d{3})+(?:[.,]\d+)?|"
        r"(?:\.\d{3}){2,}(?:,\d+)?|(?:\.\d{3})+,\d+)$",
        ("number", "missing", "unread"),
    ),
    Kind(
        "footnote",
        "footnote mark",
        rf"^(?:{_ANY_NUMBER}|{_COMMA_NUMBER})\s?(?:[*†‡§¶#]+|[\x{{00B9}}\x{{00B2}}\x{{00B3}}\x{{2070}}-\x{{2079}}]+|"
        r"\[[0-9a-zA-Z]{1,2}\]|\([0-9a-zA-Z]\)|!)$",
        ("number", "missing", "unread"),
    ),
    Kind(
        "unit_suffix",
        "unit suffix",
        rf"^(?:{_ANY_NUMBER}|{_COMMA_NUMBER})\s?{_SUFFIX}$",
        ("number", "missing", "unread"),
    ),
    Kind("mixed_units", "units that differ", _NEVER, ("convert", "missing", "unread")),
    Kind("unlike_units", "units of unlike things", _NEVER, ("unread", "missing")),
    Kind("text", "other text", r"(?s)^.*$", ("unread", "missing")),
)
"""All kinds in the order in which they are tried; what nothing else fits is text."""

_EXAMPLES = 5
_DIFFERING = ("mixed_units", "unlike_units")


@dataclass(frozen=True, eq=False)
class FoundKind:
    """The cells of one kind in a column: their rows (from 0, ascending) and up to five different texts."""

    kind: Kind
    rows: Ints
    examples: tuple[str, ...]
    unit: str = ""
    """The unit the numbers are read in, where they are written with one."""

    units: tuple[tuple[str, int], ...] = ()
    """The units that differ, each with its number of cells, the most frequent first."""

    @property
    def count(self) -> int:
        return int(self.rows.size)


def find_kinds(text: CellTexts, rows: Ints, unit: str | None = None) -> dict[str, FoundKind]:
    """Kinds of the cells of ``text`` at ``rows`` (from 0), each with its rows, in the order of the table.

    ``unit`` is that of the column, where one is known; cells with another are to be converted.
    """
    if not rows.size:
        return {}
    cells = text.at(rows).str.strip_chars()
    distinct = cells.unique(maintain_order=True)
    kinds, units = _classify(distinct, unit)
    codes = cells.replace_strict(distinct, kinds, return_dtype=pl.Int64).to_numpy()
    found = {}
    for position, (key, kind) in enumerate(KINDS.items()):
        here = codes == position
        if here.any():
            examples = distinct.filter(kinds == position).head(_EXAMPLES).to_list()
            differing = _counted_units(cells.filter(pl.Series(here))) if key in _DIFFERING else ()
            found[key] = FoundKind(kind, rows[here], tuple(examples), units.get(key, ""), differing)
    return found


def _classify(distinct: pl.Series, unit: str | None) -> tuple[pl.Series, dict[str, str]]:
    """The place in KINDS of each of the ``distinct`` texts, and the unit that goes with a kind."""
    keys = list(KINDS)
    expression = pl.lit(keys.index("text"), dtype=pl.Int64)
    for position in range(len(keys) - 2, -1, -1):
        expression = (
            pl.when(pl.col("text").str.contains(KINDS[keys[position]].pattern)).then(position).otherwise(expression)
        )
    kinds = (
        pl.DataFrame({"text": distinct}).select(expression.cast(pl.Int64).alias("kind")).to_series().to_numpy().copy()
    )
    comma, thousands = keys.index("decimal_comma"), keys.index("thousands_mark")
    grouped = distinct.str.contains(r"^[+\-−]?[1-9]\d{0,2}(,\d{3})+$").to_numpy()
    commas = kinds == comma
    if not (commas & ~grouped).any():
        # Every comma of the column stands before three digits: it groups thousands.
        kinds[commas & grouped] = thousands
    units = {**_classify_units(distinct, kinds, keys, unit), **_classify_currencies(distinct, kinds, keys)}
    _classify_letters(distinct, kinds, keys)
    return pl.Series("kind", kinds), units


def _classify_units(distinct: pl.Series, kinds: Ints, keys: Sequence[str], own: str | None) -> dict[str, str]:
    """Tell units from other suffixes, and one unit from several, in place; return the unit numbers are read in."""
    here = np.flatnonzero(kinds == keys.index("unit_suffix"))
    if not here.size:
        return {}
    suffixes = [_unit_of(text) for text in distinct.gather(pl.Series(here)).to_list()]
    for position, suffix in zip(here.tolist(), suffixes, strict=True):
        if suffix is None:
            kinds[position] = keys.index("text")
    counted = Counter(suffix for suffix in suffixes if suffix is not None)
    if not counted:
        return {}
    target = spelled(own) if own else None
    usual = counted.most_common(1)[0][0]
    if target is None or any(conversion(unit, target) is None for unit in counted):
        target = usual if target is None else target
    if set(counted) == {target}:
        return {"unit_suffix": target}
    kind = "unlike_units" if any(conversion(unit, target) is None for unit in counted) else "mixed_units"
    kinds[kinds == keys.index("unit_suffix")] = keys.index(kind)
    return {kind: target}


def _counted_units(cells: pl.Series) -> tuple[tuple[str, int], ...]:
    """The units in ``cells``, with how many have each."""
    counted: Counter[str] = Counter()
    for text, many in cells.value_counts().iter_rows():
        counted[_unit_of(text) or "no unit"] += many
    return tuple(counted.most_common())


def _unit_of(text: str) -> str | None:
    """The unit behind the number in ``text``; a bare letter right behind it is none."""
    found = re.search(rf"(\s?){_SUFFIX}$", text)
    if found is None or (len(found[2]) == 1 and found[2].isalpha() and not found[1]):
        return None
    return spelled(found[2])


def _classify_currencies(distinct: pl.Series, kinds: Ints, keys: Sequence[str]) -> dict[str, str]:
    """Amounts in more than one currency are no numbers of one column; told in place."""
    here = np.flatnonzero(kinds == keys.index("currency"))
    signs = {re.sub(r"[\d.,'’\s+\-−\u00a0\u202f]", "", text) for text in distinct.gather(pl.Series(here)).to_list()}
    if len({_SAME_MONEY.get(sign, sign) for sign in signs}) > 1:
        kinds[here] = keys.index("unlike_units")
    return {}


def _classify_letters(distinct: pl.Series, kinds: Ints, keys: Sequence[str]) -> None:
    """A letter behind a number is a magnitude only where no other letters stand behind numbers; told in place."""
    magnitude, text = keys.index("magnitude_suffix"), keys.index("text")
    if not (kinds == magnitude).any():
        return
    others = distinct.filter(pl.Series(kinds == text))
    if bool(others.str.contains(r"^\d+\s?[A-Za-z]$").any()):
        kinds[kinds == magnitude] = text
