"""One column from its cells: role, numbers, and the cells that are none, under what the dictionary says of it."""

from collections.abc import Collection
from dataclasses import replace

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.tables.cells.cell_kinds import KINDS, FoundKind, find_kinds
from culvix.tables.cells.cell_parsing import ParsedCells, parse_cells
from culvix.tables.cells.cell_rules import apply_rules, rule_in_force
from culvix.tables.cells.missing_tokens import Token, classify_tokens, find_tokens, rows_of_tokens
from culvix.tables.cells.token_spellings import ERROR_VALUES
from culvix.tables.cells.units import label_and_unit
from culvix.tables.model.cell_texts import CellTexts, RawColumn
from culvix.tables.model.derived.derived_columns import relabelled
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.role_inference import DAY_OR_MONTH, YES_NO_WORDS, InferredRole, infer_role
from culvix.tables.model.table import NUMERIC_ROLES, Column, Role

__all__ = ["make_column", "reread"]

_SOME = 200
_LIMITS_BESIDE = 20
"""Limits such as "<0.5" belong to a column of numbers where at least one cell in so many is a number."""


def make_column(
    name: str,
    raw: RawColumn,
    entry: ColumnEntry,
    missing_codes: Collection[str] = (),
    tokens: tuple[Token, ...] | None = None,
    not_missing: Collection[str] = (),
    *,
    is_first: bool = False,
    words: pl.Series | None = None,
) -> Column:
    """Judge the cells of ``raw`` under ``entry``; ``missing_codes`` count as missing besides its own.

    ``tokens`` are the spellings for missing found in it, judged beside the other columns of its table;
    ``not_missing`` are none in any column. ``is_first``: no other column stands before it.
    ``words`` are its odd texts, stripped, where they are known.
    """
    if words is None:
        words = raw.nonnumeric_texts.str.strip_chars() if raw.nonnumeric_rows.size else raw.nonnumeric_texts
    if tokens is None:
        (tokens,) = classify_tokens([find_tokens(raw, words)], [raw])
    gone = _token_rows(tokens, entry, not_missing)
    cells = parse_cells(raw, (*missing_codes, *entry.missing_codes), gone, words)
    text = raw.texts
    label, unit = label_and_unit(name)
    label, unit = entry.label or label, entry.unit or unit
    kinds = _kinds(text, cells, unit)
    inferred = infer_role(name, text, _counting_kinds(cells, kinds), has_unit=unit is not None, is_first=is_first)
    if entry.role is not None:
        inferred = InferredRole(entry.role, "chosen by hand")
    values, integers, missing, unread = _numbers(inferred.role, text, cells, kinds, entry)
    shown = kinds if inferred.role in NUMERIC_ROLES else {}
    if unit is None and values is not None:
        unit = _unit_read_in(shown, entry)
    ruled_rows = [found.rows for key, found in shown.items() if rule_in_force(key, entry.rules) == "missing"]
    return Column(
        name=name,
        role=inferred.role,
        reason=inferred.reason,
        asks="" if inferred.asks == DAY_OR_MONTH and entry.date_order else inferred.asks,
        is_first=is_first,
        raw=raw,
        missing=int(missing.sum()),
        missing_written=np.union1d(cells.coded, np.concatenate(ruled_rows)) if ruled_rows else cells.coded,
        values=values,
        integers=integers,
        unread_rows=unread,
        unit=unit,
        label=label,
        kinds=_with_tokens(shown, tokens),
        order=entry.order,
        words=entry.words or {f"{value:g}": text for text, value in entry.mapping.items()},
        rules=entry.rules,
        table_codes=tuple(missing_codes),
        tokens=tokens,
        not_missing=tuple(not_missing),
    )


def reread(column: Column, entry: ColumnEntry) -> Column:
    """``column`` read from its cells again under another ``entry``; codes that held for the whole table still hold."""
    if column.derivation is not None:
        return relabelled(column, entry)
    return make_column(
        column.name, column.raw, entry, column.table_codes, column.tokens, column.not_missing, is_first=column.is_first
    )


def _token_rows(tokens: tuple[Token, ...], entry: ColumnEntry, not_missing: Collection[str]) -> Ints:
    """Rows whose cells are missing by a token, under what ``entry`` says of tokens."""
    errors = [token for token in tokens if token.spelling.upper() in ERROR_VALUES]
    plain = [token for token in tokens if token not in errors]
    groups = [(plain, "missing_token"), (errors, "error_value")]
    counted = [token for group, key in groups if rule_in_force(key, entry.rules) == "missing" for token in group]
    return rows_of_tokens(counted, {*not_missing, *entry.not_missing})


def _with_tokens(kinds: dict[str, FoundKind], tokens: tuple[Token, ...]) -> dict[str, FoundKind]:
    """``kinds`` with the cells that hold a token for missing, which are known before the others are looked at."""
    if not tokens:
        return kinds
    found = dict(kinds)
    for key in ("error_value", "missing_token"):
        mine = [t for t in tokens if not t.level and (t.spelling.upper() in ERROR_VALUES) == (key == "error_value")]
        if mine:
            before = [found[key]] if key in found else []
            rows = np.unique(np.concatenate([token.rows for token in mine] + [kind.rows for kind in before]))
            examples = [token.spelling for token in mine] + [text for kind in before for text in kind.examples]
            found[key] = FoundKind(KINDS[key], rows, tuple(dict.fromkeys(examples))[:5])
    return {key: found[key] for key in KINDS if key in found}


def _unit_read_in(kinds: dict[str, FoundKind], entry: ColumnEntry) -> str | None:
    """The unit that cells are read in by rule, where they are written with one."""
    read = (found.unit for key, found in kinds.items() if rule_in_force(key, entry.rules) in ("number", "convert"))
    return next((unit for unit in read if unit), None)


def _kinds(text: CellTexts, cells: ParsedCells, unit: str | None) -> dict[str, FoundKind]:
    """Kinds of the cells that are no plain numbers, where the column can be one of numbers at all."""
    nonnumeric_rows = np.flatnonzero(cells.unread)
    if not nonnumeric_rows.size:
        return {}
    if cells.numbers * 20 < nonnumeric_rows.size:
        some = find_kinds(text, nonnumeric_rows[:: max(nonnumeric_rows.size // _SOME, 1)], unit)
        plain = some["text"].count if "text" in some else 0
        if 2 * plain > sum(kind.count for kind in some.values()):
            return {}
    return find_kinds(text, nonnumeric_rows, unit)


def _counting_kinds(cells: ParsedCells, kinds: dict[str, FoundKind]) -> ParsedCells:
    """The cells as the role is judged by: what would give a number under its suggested rule counts as one.

    A limit does where there are numbers beside it; without them "<25" and ">35" are the outer ones of some classes.
    """
    rules = {key: kind.kind.rules[0] for key, kind in kinds.items()}
    number = [kinds[key].rows for key, rule in rules.items() if rule in ("number", "convert")]
    likely = cells.numbers + sum(rows.size for rows in number)
    limits = [kinds[key].rows for key, rule in rules.items() if rule == "limit"]
    if "range" in kinds or likely * _LIMITS_BESIDE < sum(rows.size for rows in limits):
        limits = []
    # "x" or "unknown" stand for a missing number only where there are numbers.
    missing = [kinds[key].rows for key, rule in rules.items() if rule == "missing"] if likely else []
    if not (number or limits or missing):
        return cells
    unread, gone = cells.unread.copy(), cells.missing.copy()
    for rows in (*number, *limits):
        unread[rows] = False
    for rows in missing:
        unread[rows], gone[rows] = False, True
    return replace(cells, missing=gone, unread=unread, whole=cells.whole and not (number or limits))


def _numbers(
    role: Role, text: CellTexts, cells: ParsedCells, kinds: dict[str, FoundKind], entry: ColumnEntry
) -> tuple[Floats | None, Ints | None, Bools, Ints]:
    """Values, exact whole numbers, missing cells and unread rows that go with ``role``."""
    nothing = np.zeros(0, dtype=np.int64)
    if role not in NUMERIC_ROLES:
        return None, None, cells.missing, nothing
    if entry.mapping:
        return _mapped(text.all, cells, dict(entry.mapping))
    if role is Role.YES_NO and not cells.numbers:
        return _mapped(text.all.str.to_lowercase(), cells, YES_NO_WORDS)
    values, missing, unread, integers = cells.values, cells.missing, cells.unread, cells.integers
    if any(rule_in_force(key, entry.rules) != "unread" for key in kinds):
        given, gone, left = apply_rules(text, kinds, entry.rules)
        values = np.where(np.isnan(given), values, given)
        missing, unread = missing | gone, left
        integers = None if np.isfinite(given).any() else integers
    return values, integers, missing, np.flatnonzero(unread)


def _mapped(text: pl.Series, cells: ParsedCells, mapping: dict[str, float]) -> tuple[Floats, None, Bools, Ints]:
    """Numbers given to texts by the analyst, or to words for yes and no."""
    words = text.str.strip_chars()
    coded = words.replace_strict(mapping, default=None, return_dtype=pl.Float64).fill_null(np.nan).to_numpy()
    values = np.where(cells.missing, np.nan, coded)
    return values, None, cells.missing, np.flatnonzero(np.isnan(values) & ~cells.missing)
