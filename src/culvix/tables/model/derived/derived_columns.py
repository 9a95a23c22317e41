"""Columns worked out from another one by a transformation. They follow their source wherever it changes."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
import polars as pl

from culvix.errors import CulvixError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.display import plural
from culvix.tables.model.cell_texts import CellTexts, RawColumn
from culvix.tables.model.derived.column_rule import Cells
from culvix.tables.model.derived.derivation import Derivation
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Column, Role, Table

__all__ = ["NumberTexts", "derive", "derive_by_rule", "name_of", "relabelled", "usual_role"]


@dataclass(frozen=True, eq=False)
class NumberTexts(CellTexts):
    """Cells that were worked out: their texts are their numbers."""

    values: Floats

    def __len__(self) -> int:
        return int(self.values.size)

    @property
    def all(self) -> pl.Series:
        return self.at(np.arange(self.values.size))

    def at(self, rows: Ints) -> pl.Series:
        return pl.Series([self[int(row)] for row in rows], dtype=pl.String)

    def __getitem__(self, row: int) -> str | None:
        value = float(self.values[row])
        return f"{value:.7g}" if np.isfinite(value) else None


_FLAGS = "flags"
_PREFIXES = {"standard": "z", "robust_standard": "robust_z", "reciprocal": "inverse", "normal_ranks": "normal_score"}
"""What names begin with, where it is not the key of the scale."""


def name_of(table: Table, derivation: Derivation) -> str:
    """A name for the column that is not taken in ``table``, in letters, digits and underscores besides its source's."""
    scale = derivation.scale
    plain = f"{_FLAGS if scale is None else _PREFIXES.get(scale.key, scale.key)}_{derivation.source}"
    names = (plain, *(f"{plain}_{number}" for number in range(2, 1000)))
    return next(name for name in names if name not in table)


def derive_by_rule(
    name: str,
    columns: Mapping[str, Column],
    derivation: Derivation,
    entry: ColumnEntry,
    orders: Mapping[str, str | None] | None = None,
) -> Column:
    """The column ``name`` that the rule of ``derivation`` makes of ``columns``, under what is said of it in ``entry``.

    ``orders`` is what was said of dates. Raises CulvixError where the rule cannot be applied.
    """
    rule = derivation.rule
    assert rule is not None
    rule.check(columns, derivation.source)

    def numbers(source: str) -> Floats:
        values = columns[source].values
        assert values is not None
        return values

    values = rule.values(derivation.source, Cells(columns, numbers, orders or {}))
    words = rule.words(columns, derivation.source)
    nonnumeric_rows = np.flatnonzero(~np.isfinite(values))
    texts = NumberTexts(values)
    return Column(
        name=name,
        role=entry.role or usual_role(derivation),
        reason=f"made by a rule: {derivation.words}",
        raw=RawColumn(texts, values, nonnumeric_rows, texts.at(nonnumeric_rows)),
        missing=int(nonnumeric_rows.size),
        values=values,
        unit=entry.unit,
        label=entry.label,
        words={**words, **entry.words},
        derivation=derivation,
        taken_as_data=True,
    )


def usual_role(derivation: Derivation) -> Role:
    """What a column is for as long as nothing else is said."""
    if derivation.rule is None:
        return Role.COUNT if derivation.scale is None else Role.MEASURE
    kind, part = derivation.rule.kind, derivation.rule.part
    if kind == "condition":
        return Role.YES_NO
    if kind in ("two", "several"):
        return Role.MEASURE
    return Role.COUNT if kind == "date" and part in ("year", "day") else Role.ORDERED


def derive(name: str, source: Column, derivation: Derivation, entry: ColumnEntry, *, lenient: bool = False) -> Column:
    """The column ``name`` worked out from ``source``, under what is said of it in ``entry``.

    Raises StatisticsError naming rows outside the domain; where ``lenient`` they are left missing and said so.
    """
    if source.values is None:
        raise CulvixError(f"{name} follows {source.name}, which has no numbers any more.")
    values = derivation.of(source.sample, lenient=lenient)
    lost = int(np.isfinite(source.values).sum() - np.isfinite(values).sum())
    reason = f"{derivation.words} of {source.name}"
    obstacle = derivation.obstacle(source.sample)
    if obstacle is not None:
        reason += f"; {obstacle}"
    elif lost:
        reason += f"; {plural(lost, 'value')} outside its domain or too large"
    nonnumeric_rows = np.flatnonzero(~np.isfinite(values))
    texts = NumberTexts(values)
    return Column(
        name=name,
        role=entry.role or usual_role(derivation),
        reason=reason,
        raw=RawColumn(texts, values, nonnumeric_rows, texts.at(nonnumeric_rows)),
        missing=int(nonnumeric_rows.size),
        values=values,
        unit=entry.unit,
        label=entry.label or derivation.label,
        derivation=derivation,
        taken_as_data=entry.role is not None,
    )


def relabelled(column: Column, entry: ColumnEntry) -> Column:
    """A derived ``column`` under other words; its numbers stay."""
    assert column.derivation is not None
    by_rule = column.derivation.rule is not None
    described = {"unit": entry.unit, "label": entry.label or (None if by_rule else column.derivation.label)}
    role = entry.role or usual_role(column.derivation)
    words = {**column.words, **entry.words} if by_rule else column.words
    return replace(column, role=role, taken_as_data=by_rule or entry.role is not None, words=words, **described)  # type: ignore[arg-type]
