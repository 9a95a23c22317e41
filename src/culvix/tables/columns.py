"""One column from its cells: role, numbers, and the cells that are none, under what the dictionary says of it."""

from collections.abc import Collection

import numpy as np
import polars as pl

from culvix.stats.arrays import Bools, Floats, Ints
from culvix.tables.cell_kinds import FoundKind, find_kinds
from culvix.tables.cell_texts import CellTexts, RawColumn
from culvix.tables.cells import ParsedCells, parse_cells
from culvix.tables.derived import relabelled
from culvix.tables.dictionary import ColumnEntry
from culvix.tables.roles import YES_NO_WORDS, Judged, infer_role
from culvix.tables.table import NUMERIC_ROLES, Column, Role
from culvix.tables.treatments import settled
from culvix.tables.units import label_and_unit

__all__ = ["make_column", "reread"]

_SOME = 200


def make_column(
    name: str,
    raw: RawColumn,
    entry: ColumnEntry,
    missing_codes: Collection[str] = (),
) -> Column:
    """Judge the cells of ``raw`` under ``entry``; ``missing_codes`` count as missing besides its own."""
    cells = parse_cells(raw, (*missing_codes, *entry.missing_codes))
    text = raw.texts
    label, unit = label_and_unit(name)
    label, unit = entry.label or label, entry.unit or unit
    kinds = _kinds(text, cells)
    judged = infer_role(name, text, _counting_kinds(cells, kinds), has_unit=unit is not None)
    if entry.role is not None:
        judged = Judged(entry.role, "chosen by hand")
    values, integers, missing, unread = _numbers(judged.role, text, cells, kinds, entry)
    return Column(
        name=name,
        role=judged.role,
        reason=judged.reason,
        raw=raw,
        missing=int(missing.sum()),
        values=values,
        integers=integers,
        unread_rows=unread,
        unit=unit,
        label=label,
        kinds=kinds if judged.role in NUMERIC_ROLES else {},
        valid_range=entry.valid_range,
        order=entry.order,
        rules=entry.rules,
        table_codes=tuple(missing_codes),
    )


def reread(column: Column, entry: ColumnEntry) -> Column:
    """``column`` read from its cells again under another ``entry``; codes that held for the whole table still hold."""
    if column.derivation is not None:
        return relabelled(column, entry)
    return make_column(column.name, column.raw, entry, column.table_codes)


def _kinds(text: CellTexts, cells: ParsedCells) -> dict[str, FoundKind]:
    """Kinds of the cells that are no plain numbers, where the column can be one of numbers at all."""
    odd = np.flatnonzero(cells.unread)
    if not odd.size:
        return {}
    if cells.numbers * 20 < odd.size:
        some = find_kinds(text, odd[:: max(odd.size // _SOME, 1)])
        plain = some["text"].count if "text" in some else 0
        if 2 * plain > sum(kind.count for kind in some.values()):
            return {}
    return find_kinds(text, odd)


def _counting_kinds(cells: ParsedCells, kinds: dict[str, FoundKind]) -> ParsedCells:
    """The cells as the role is judged by: what would give a number under its suggested rule counts as one."""
    likely = [kind.rows for kind in kinds.values() if kind.kind.rules[0] in ("number", "limit")]
    missing = [kind.rows for kind in kinds.values() if kind.kind.rules[0] == "missing"]
    if not likely and not missing:
        return cells
    unread, gone, values = cells.unread.copy(), cells.missing.copy(), cells.values
    for rows in likely:
        unread[rows] = False
    for rows in missing:
        unread[rows], gone[rows] = False, True
    return ParsedCells(values, cells.integers, gone, unread, cells.whole and not likely)


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
    if kinds and entry.rules:
        given, gone, left = settled(text, kinds, entry.rules)
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
