"""Columns worked out from another one by a transformation. They follow their source wherever it changes."""

from dataclasses import dataclass, replace

import numpy as np
import polars as pl

from culvix.errors import CulvixError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.display import plural
from culvix.stats.shape.transform import TRANSFORMS, Scale, on_that_scale
from culvix.tables.model.cell_texts import CellTexts, RawColumn
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Column, Role, Table

__all__ = ["Derivation", "NumberTexts", "RowCounts", "derive", "derived_sample", "name_of", "relabelled"]


@dataclass(frozen=True, eq=False)
class RowCounts:
    """Counts found once, that stay as they were: ``counts`` in ``rows`` (from 0), none in ``missing``, 0 elsewhere."""

    rows: Ints
    counts: Ints
    missing: Ints

    def values(self, rows: int) -> Floats:
        """The counts of all ``rows`` of a table, NaN where there is none."""
        values = np.zeros(rows)
        values[self.rows] = self.counts
        values[self.missing] = np.nan
        return values


@dataclass(frozen=True)
class Derivation:
    """From which column, and on which scale; or ``counts`` about its values, as they were found."""

    source: str
    scale: Scale | None
    counts: RowCounts | None = None

    def obstacle(self, sample: Sample) -> str | None:
        """Why no value at all follows from those of the source, in a sentence, or None."""
        transform = None if self.scale is None else TRANSFORMS.get(self.scale.key)
        return None if transform is None or not sample.n else transform.obstacle(sample)

    @property
    def label(self) -> str:
        """The column in the words of mathematics: "√mass_g", "flags of mass_g"."""
        if "x" in self.words:
            return self.words.replace("x", self.source, 1)
        return f"{self.words} of {self.source}"

    @property
    def words(self) -> str:
        """What the column is of its source."""
        return "flags" if self.scale is None else self.scale.name

    def of(self, sample: Sample, *, lenient: bool = False) -> Floats:
        """The values that follow from those of the source. Raises StatisticsError as `on_that_scale`."""
        if self.scale is None:
            size = int(sample.values.size)
            return np.full(size, np.nan) if self.counts is None else self.counts.values(size)
        return on_that_scale(sample, self.scale, lenient=lenient)


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
        role=entry.role or (Role.COUNT if derivation.scale is None else Role.MEASURE),
        reason=reason,
        raw=RawColumn(texts, values, nonnumeric_rows, texts.at(nonnumeric_rows)),
        missing=int(nonnumeric_rows.size),
        values=values,
        unit=entry.unit,
        label=entry.label or derivation.label,
        derivation=derivation,
        taken_as_data=entry.role is not None,
    )


def derived_sample(source: Sample, derivation: Derivation) -> Sample:
    """The values of a derived column that follow from ``source`` as it stands now."""
    return Sample(derivation.of(source, lenient=True))


def relabelled(column: Column, entry: ColumnEntry) -> Column:
    """A derived ``column`` under other words; its numbers stay."""
    assert column.derivation is not None
    said = {"unit": entry.unit, "label": entry.label or column.derivation.label}
    role = entry.role or (Role.COUNT if column.derivation.scale is None else Role.MEASURE)
    return replace(column, role=role, taken_as_data=entry.role is not None, **said)  # type: ignore[arg-type]
