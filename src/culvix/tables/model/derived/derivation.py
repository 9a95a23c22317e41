"""How a column follows from another one, by a transformation or by what was counted about its values."""

from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.shape.transform import TRANSFORMS, Scale, on_that_scale
from culvix.tables.model.derived.column_rule import ColumnRule

__all__ = ["Derivation", "RowCounts", "derived_sample"]


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
    """From which column, and on which scale; or ``counts`` about its values, as they were found; or by a ``rule``."""

    source: str
    scale: Scale | None
    counts: RowCounts | None = None
    rule: ColumnRule | None = None

    @property
    def sources(self) -> tuple[str, ...]:
        """All columns it follows, the first one first."""
        return (self.source,) if self.rule is None else self.rule.sources(self.source)

    def obstacle(self, sample: Sample) -> str | None:
        """Why no value at all follows from those of the source, in a sentence, or None."""
        transform = None if self.scale is None else TRANSFORMS.get(self.scale.key)
        return None if transform is None or not sample.n else transform.obstacle(sample)

    @property
    def label(self) -> str:
        """The column in the words of mathematics: "√mass_g", "flags of mass_g"."""
        if self.rule is not None:
            return self.words
        if "x" in self.words:
            return self.words.replace("x", self.source, 1)
        return f"{self.words} of {self.source}"

    @property
    def words(self) -> str:
        """What the column is of its source; a rule in full."""
        if self.rule is not None:
            return self.rule.sentence(self.source)
        return "flags" if self.scale is None else self.scale.name

    def of(self, sample: Sample, *, lenient: bool = False) -> Floats:
        """The values that follow from those of the source. Raises StatisticsError as `on_that_scale`."""
        if self.scale is None:
            size = int(sample.values.size)
            return np.full(size, np.nan) if self.counts is None else self.counts.values(size)
        return on_that_scale(sample, self.scale, lenient=lenient)


def derived_sample(source: Sample, derivation: Derivation) -> Sample:
    """The values of a derived column that follow from ``source`` as it stands now."""
    return Sample(derivation.of(source, lenient=True))
