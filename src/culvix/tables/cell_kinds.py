"""What the cells that are no plain numbers are: missing tokens, decimal commas, limits, units, dates and so on.

Only the different texts of a column are looked at, each once. A kind is told from the text alone, save one: "1,234" is
a decimal comma where other cells of the column can only be that, and otherwise a thousands mark.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import polars as pl

from culvix.stats.arrays import Ints
from culvix.tables.cell_texts import CellTexts

__all__ = ["KINDS", "FoundKind", "Kind", "find_kinds", "is_missing_token"]

_NUMBER = r"[+\-−]?(?:\d+\.?\d*|\.\d+)(?:[eE][+\-]?\d+)?"
_COMMA_NUMBER = r"[+\-−]?\d*,\d+(?:[eE][+\-]?\d+)?"
_ANY_NUMBER = r"[+\-−]?(?:\d[\d.,'’ \x{00A0}\x{202F}]*\d|\d)(?:[eE][+\-]?\d+)?"
_CODES = "EUR|USD|GBP|CHF|JPY|SEK|NOK|DKK|PLN|CZK|CAD|AUD|INR|CNY"
_SIGNS = r"\p{Sc}"
_MISSING = (
    r"(?i)^(?:n\.?/?a\.?|n\.?\s?d\.?|nan|null|none|nil|missing|miss|unknown|not available|not applicable|not measured|"
    r"no data|void|-+|–|—|\.+|…|\?+|\*+|x|#n/a|#null!|#value!|#div/0!|#ref!|#num!|#name\?|<na>|\(null\)|\\n)$"
)
_MONTH = r"(?i:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*"
_DATE = (
    r"^(?:\d{4}[-/.]\d{1,2}[-/.]\d{1,2}(?:[T ]\d{1,2}:\d{2}(?::\d{2}(?:\.\d+)?)?(?:Z|[+\-]\d{2}:?\d{2})?)?|"
    r"\d{1,2}[-/.]\d{1,2}[-/.]\d{4}(?:\s\d{1,2}:\d{2}(?::\d{2})?)?|"
    rf"\d{{1,2}}[ .\-/]+{_MONTH}[ .,\-/]+\d{{2,4}}|{_MONTH}\s+\d{{1,2}},?\s+\d{{4}})$"
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
    Kind("missing_token", "missing token", _MISSING, ("missing", "unread")),
    Kind("limit", "limit", rf"^[<>≤≥]=?\s*(?:{_ANY_NUMBER}|{_COMMA_NUMBER})$", ("limit", "half", "missing", "unread")),
    Kind("date", "date", _DATE, ("unread", "missing")),
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
        rf"^(?:{_ANY_NUMBER}|{_COMMA_NUMBER})\s?(?:k|K|M|mn|Mn|bn|Bn|B|G|T)$",
        ("number", "missing", "unread"),
    ),
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
        rf"^(?:{_ANY_NUMBER}|{_COMMA_NUMBER})\s?(?:°\s?[CFK]|[a-zA-Zµμ]{{1,5}}[²³23]?(?:/[a-zA-Zµμ]{{1,5}}[²³23]?)?)$",
        ("number", "missing", "unread"),
    ),
    Kind("text", "other text", r"(?s)^.*$", ("unread", "missing")),
)
"""All kinds in the order in which they are tried; what nothing else fits is text."""

_EXAMPLES = 5


@dataclass(frozen=True, eq=False)
class FoundKind:
    """The cells of one kind in a column: their rows (from 0, ascending) and up to five different texts."""

    kind: Kind
    rows: Ints
    examples: tuple[str, ...]

    @property
    def count(self) -> int:
        return int(self.rows.size)


def is_missing_token(text: str) -> bool:
    """Whether ``text`` is commonly written for a missing value."""
    return bool(pl.Series([text.strip()]).str.contains(KINDS["missing_token"].pattern)[0])


def find_kinds(text: CellTexts, rows: Ints) -> dict[str, FoundKind]:
    """Kinds of the cells of ``text`` at ``rows`` (from 0), each with its rows, in the order of the table."""
    if not rows.size:
        return {}
    cells = text.at(rows).str.strip_chars()
    distinct = cells.unique(maintain_order=True)
    kinds = _classify(distinct)
    codes = cells.replace_strict(distinct, kinds, return_dtype=pl.Int64).to_numpy()
    found = {}
    for place, (key, kind) in enumerate(KINDS.items()):
        here = codes == place
        if here.any():
            examples = distinct.filter(kinds == place).head(_EXAMPLES).to_list()
            found[key] = FoundKind(kind, rows[here], tuple(examples))
    return found


def _classify(distinct: pl.Series) -> pl.Series:
    """The place in KINDS of each of the ``distinct`` texts."""
    keys = list(KINDS)
    expression = pl.lit(keys.index("text"), dtype=pl.Int64)
    for place in range(len(keys) - 2, -1, -1):
        expression = pl.when(pl.col("text").str.contains(KINDS[keys[place]].pattern)).then(place).otherwise(expression)
    kinds = pl.DataFrame({"text": distinct}).select(expression.cast(pl.Int64).alias("kind")).to_series()
    comma, thousands = keys.index("decimal_comma"), keys.index("thousands_mark")
    grouped = distinct.str.contains(r"^[+\-−]?[1-9]\d{0,2}(,\d{3})+$")
    commas = kinds == comma
    if bool((commas & ~grouped).any()):
        return kinds
    # Every comma of the column stands before three digits: it groups thousands.
    return pl.select(pl.when(commas & grouped).then(thousands).otherwise(kinds)).to_series()
