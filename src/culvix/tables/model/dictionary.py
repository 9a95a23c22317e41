"""The column dictionary: what the analyst says of each column, read and written as an open Table Schema.

The file is a `datapackage.json` (Data Package standard, Table Schema). What the standard has no word for stands in the
object `culvix` of a field: the role, the rules that settle kinds of cells, and how texts were turned into numbers.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import isfinite
from pathlib import Path
from types import MappingProxyType
from typing import Any

import msgspec

from culvix.errors import ReadError
from culvix.files import display_path
from culvix.json_text import check_json_size
from culvix.tables.cells.cell_rules import check_rules
from culvix.tables.cells.dates import DAY_FIRST, MONTH_FIRST
from culvix.tables.cells.token_spellings import is_missing_token
from culvix.tables.model.table import Column, Role, Source
from culvix.tables.reading.sources import checked_file
from culvix.tables.text.dialect import Dialect

__all__ = ["Bounds", "ColumnEntry", "Dictionary", "load_data_package", "read_data_package", "write_data_package"]

Bounds = tuple[float | None, float | None]

_LARGEST, _LONGEST = 1 << 25, 100_000
_TYPES = {
    Role.MEASURE: "number",
    Role.COUNT: "integer",
    Role.ORDERED: "integer",
    Role.YES_NO: "boolean",
    Role.DATE: "date",
}


@dataclass(frozen=True)
class ColumnEntry:
    """What is said of one column; None or empty where nothing is, so that the reader's own judgement stands.

    ``missing_codes`` stand for a missing value besides the usual tokens, of which ``not_missing`` do not.
    ``date_order`` says whether the day or the month comes first in its dates. ``rules`` settle kinds of cells (kind →
    rule); ``order`` lists the categories from lowest to highest; ``mapping`` gives texts their numbers, which takes
    equal steps for granted; ``words`` say what codes stand for. Raises ReadError for rules that do not exist and a
    range whose ends are the wrong way round.
    """

    label: str | None = None
    unit: str | None = None
    role: Role | None = None
    valid_range: Bounds = (None, None)
    missing_codes: tuple[str, ...] = ()
    not_missing: tuple[str, ...] = ()
    date_order: str | None = None
    order: tuple[str, ...] = ()
    mapping: Mapping[str, float] = field(default_factory=lambda: MappingProxyType({}))
    rules: Mapping[str, str] = field(default_factory=lambda: MappingProxyType({}))
    words: Mapping[str, str] = field(default_factory=lambda: MappingProxyType({}))

    def __post_init__(self) -> None:
        check_rules(self.rules)
        low, high = self.valid_range
        if any(end is not None and not isfinite(end) for end in (low, high)):
            raise ReadError("The ends of a valid range are finite numbers.")
        if not all(map(isfinite, self.mapping.values())):
            raise ReadError("Texts stand for finite numbers.")
        if low is not None and high is not None and not low < high:
            raise ReadError(f"A valid range begins below its end; {low:g} is not below {high:g}.")

    @property
    def without_range(self) -> "ColumnEntry":
        """What the cells of the column are read by: the same entry without its valid range."""
        return self if self.valid_range == (None, None) else replace(self, valid_range=(None, None))

    def with_rule(self, kind: str, rule: str) -> "ColumnEntry":
        """The same entry with another rule for cells of ``kind``."""
        return replace(self, rules=MappingProxyType({**self.rules, kind: rule}))


_NOTHING_SAID = ColumnEntry()


@dataclass(frozen=True)
class Dictionary:
    """Entries by column name, notes on where the table comes from, and the columns that name a row."""

    entries: Mapping[str, ColumnEntry] = field(default_factory=lambda: MappingProxyType({}))
    provenance: str = ""
    not_missing: tuple[str, ...] = ()
    """Usual tokens for a missing value that are none in any column of this table."""

    key: tuple[str, ...] = ()
    """Columns whose cells together tell every row apart; the first is shown for a row everywhere."""

    def __eq__(self, other: object) -> bool:
        """Whether the same is said; an entry that says nothing is as good as none."""
        if not isinstance(other, Dictionary):
            return NotImplemented
        names = {*self.entries, *other.entries}
        rest = [(each.provenance, each.not_missing, each.key) for each in (self, other)]
        return rest[0] == rest[1] and all(self.of(name) == other.of(name) for name in names)

    def of(self, column: str) -> ColumnEntry:
        return self.entries.get(column, _NOTHING_SAID)

    def with_entry(self, column: str, entry: ColumnEntry) -> "Dictionary":
        """The same dictionary with another entry for ``column``."""
        return self.with_each({column: entry})

    def with_each(self, entries: Mapping[str, ColumnEntry]) -> "Dictionary":
        """The same dictionary with other ``entries`` for some columns."""
        return replace(self, entries=MappingProxyType({**self.entries, **entries}))


def write_data_package(
    columns: Sequence[Column], source: Source, dialect: Dialect | None, dictionary: Dictionary
) -> bytes:
    """The dictionary of ``columns`` as a data package descriptor, UTF-8 JSON."""
    # A name of a file may hold bytes that are no text, which JSON has no way to write.
    path = display_path(Path(source.name))
    resource: dict[str, Any] = {
        "name": Path(path).stem.lower().replace(" ", "-") or "table",
        "path": path,
        "hash": f"sha256:{source.sha256}",
        "bytes": source.size,
    }
    if dialect is not None:
        resource |= {"format": "csv", "encoding": source.encoding.lower(), "dialect": _dialect(dialect)}
    resource["schema"] = {"fields": [_field(column, dictionary.of(column.name), dialect) for column in columns]}
    if dictionary.not_missing:
        resource["schema"]["culvix"] = {"not_missing": list(dictionary.not_missing)}
    if dictionary.key:
        resource["schema"]["primaryKey"] = list(dictionary.key)
    package: dict[str, Any] = {"$schema": "https://datapackage.org/profiles/2.0/datapackage.json"}
    if dictionary.provenance:
        package["description"] = dictionary.provenance
    package["resources"] = [resource]
    return msgspec.json.format(msgspec.json.encode(package), indent=1) + b"\n"


def _dialect(dialect: Dialect) -> dict[str, Any]:
    found: dict[str, Any] = {
        "delimiter": dialect.delimiter,
        "quoteChar": dialect.quote,
        "header": dialect.header_rows > 0,
    }
    if dialect.header_rows:
        first = dialect.preamble_rows + 1
        found["headerRows"] = list(range(first, first + dialect.header_rows))
    if dialect.comment:
        found["commentChar"] = dialect.comment
    return found


def _field(column: Column, entry: ColumnEntry, dialect: Dialect | None) -> dict[str, Any]:
    made: dict[str, Any] = {"name": column.name, "type": _TYPES.get(column.role, "string")}
    if column.label:
        made["title"] = column.label
    if column.unit:
        made["unit"] = column.unit
    if dialect is not None and dialect.decimal != "." and column.is_numeric:
        made["decimalChar"] = dialect.decimal
        if dialect.thousands:
            made["groupChar"] = dialect.thousands
    low, high = entry.valid_range
    constraints = {name: end for name, end in (("minimum", low), ("maximum", high)) if end is not None}
    if constraints:
        made["constraints"] = constraints
    missing = [spelling for spelling in column.missing_by if spelling]
    if entry.missing_codes or missing:
        made["missingValues"] = ["", *dict.fromkeys([*entry.missing_codes, *missing])]
    if entry.order or entry.words:
        codes = list(dict.fromkeys([*entry.order, *entry.words]))
        made["categories"] = [
            {"value": code, "label": entry.words[code]} if code in entry.words else code for code in codes
        ]
    if entry.order:
        made["categoriesOrdered"] = True
    own: dict[str, Any] = {"role": str(column.role), "chosen": _chosen(entry)}
    if entry.rules:
        own["rules"] = dict(entry.rules)
    if entry.mapping:
        own["mapping"] = dict(entry.mapping)
    if entry.missing_codes:
        own["missing_codes"] = list(entry.missing_codes)
    if entry.date_order:
        own["date_order"] = entry.date_order
    if entry.not_missing:
        own["not_missing"] = list(entry.not_missing)
    made["culvix"] = own
    return made


def _chosen(entry: ColumnEntry) -> list[str]:
    """What was said by the analyst rather than judged by the reader."""
    return [name for name in ("label", "unit", "role") if getattr(entry, name) is not None]


def read_data_package(data: bytes, name: str = "datapackage.json") -> Dictionary:
    """The dictionary in a data package descriptor, of its first resource.

    Only what was chosen is taken from fields this program wrote; all that stands in others. Raises ReadError for what
    is no such file.
    """
    check_json_size(data)
    try:
        package = msgspec.json.decode(data)
        resource = package["resources"][0]
        schema = resource["schema"]
        entries = {str(each["name"]): _entry(each, resource) for each in schema["fields"]}
        key = schema.get("primaryKey", ())
        not_missing = tuple(str(each) for each in schema.get("culvix", {}).get("not_missing", ()))
        names = (key,) if isinstance(key, str) else tuple(str(each) for each in key)
        about = package.get("description", "")
    except msgspec.DecodeError as error:
        raise ReadError(f"{name} is not JSON: {error}.") from error
    except ReadError as error:
        raise ReadError(f"{name} cannot be taken: {error}") from error
    except RecursionError as error:
        raise ReadError(f"{name} is nested too deeply for a data package.") from error
    except (KeyError, IndexError, TypeError, AttributeError) as error:
        raise ReadError(f"{name} has no resource with a schema of named fields.") from error
    except (ValueError, OverflowError) as error:
        raise ReadError(f"{name} holds a value that does not fit: {str(error)[:200]}.") from error
    known = tuple(each for each in names if each in entries)
    return Dictionary(MappingProxyType(entries), str(about)[:_LONGEST], not_missing, known)


def load_data_package(path: Path) -> Dictionary:
    """The dictionary in the file at ``path``. Raises ReadError for one that cannot be read or is no data package."""
    with checked_file(path) as file:
        data = file.read(_LARGEST + 1)
    if len(data) > _LARGEST:
        raise ReadError(f"{display_path(path)} is larger than {_LARGEST >> 20} megabytes; no data package is.")
    return read_data_package(data, display_path(Path(path.name)))


def _entry(found: Mapping[str, Any], resource: Mapping[str, Any]) -> ColumnEntry:
    own: Mapping[str, Any] = found.get("culvix", {})
    chosen = own.get("chosen", ("label", "unit", "role"))
    constraints = found.get("constraints", {})
    low, high = (constraints.get(end) for end in ("minimum", "maximum"))
    missing = found.get("missingValues", resource["schema"].get("missingValues", ()))
    if "culvix" in found:
        # What this program wrote lists the usual tokens, too, which are found again without being said.
        missing = own.get("missing_codes", [each for each in missing if not is_missing_token(_code(each))])
    role = own.get("role") if "role" in chosen else None
    return ColumnEntry(
        label=_words(found.get("title")) if "label" in chosen else None,
        unit=_words(found.get("unit")) if "unit" in chosen else None,
        role=None if role is None else Role(role),
        valid_range=(_bound(low), _bound(high)),
        missing_codes=tuple(_code(each) for each in missing if _code(each)),
        not_missing=tuple(str(each) for each in own.get("not_missing", ())),
        date_order=own.get("date_order") if own.get("date_order") in (DAY_FIRST, MONTH_FIRST) else None,
        order=tuple(_code(each) for each in found.get("categories", ())) if found.get("categoriesOrdered") else (),
        mapping=MappingProxyType({str(text): _number(value) for text, value in own.get("mapping", {}).items()}),
        rules=MappingProxyType({str(kind): str(rule) for kind, rule in own.get("rules", {}).items()}),
        words=MappingProxyType(
            {_code(each): str(each["label"]) for each in found.get("categories", ()) if _has_label(each)}
        ),
    )


def _has_label(category: Any) -> bool:
    """Whether a category says what it stands for: a label that is but its value says nothing."""
    return isinstance(category, dict) and str(category.get("label", "")).strip() not in ("", _code(category))


def _words(found: Any) -> str | None:
    """A text of a field; None where nothing is said. Raises TypeError for what is none."""
    if found is not None and not isinstance(found, str):
        raise TypeError(f"{found!r} is no text")
    return found or None


def _number(found: Any) -> float:
    """A finite number. Raises ValueError for anything else."""
    if isinstance(found, bool) or not isinstance(found, int | float) or not isfinite(found):
        raise ValueError(f"{str(found)[:40]!r} is no number")
    return float(found)


def _bound(found: Any) -> float | None:
    """An end of a valid range; texts that are none, such as dates, say nothing about numbers."""
    if found is None or isinstance(found, str):
        try:
            return None if found is None else float(found)
        except ValueError:
            return None
    return _number(found)


def _code(each: Any) -> str:
    """A missing value or category: a text, or an object with its value."""
    return str(each["value"]) if isinstance(each, dict) else str(each)
