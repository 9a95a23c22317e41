"""Whether cells are missing more often where another column is low or high: shares by its quarters, with χ²."""

from dataclasses import dataclass

import numpy as np
from scipy.special import chdtrc

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.quantiles import quantile
from culvix.stats.display import p_value, per_cent, plural
from culvix.stats.resampling.multiple_testing import benjamini_hochberg
from culvix.tables.model.table import Column, Table

__all__ = ["LEVEL", "MissingLink", "MissingLinks", "missing_links"]

LEVEL = 0.05
"""Adjusted p below which gaps are said to go with another column."""
_QUARTERS = ("lowest", "second", "third", "highest")
_LEAST_EXPECTED = 5.0
"""Gaps expected in each quarter at least; with fewer χ² is no guide, and the pair is not tried."""
_MOST_GAPPY = 40
"""Columns with the most gaps that are asked about."""


@dataclass(frozen=True)
class MissingLink:
    """How often cells of ``column`` are missing by the quarter in which ``other`` lies in the same row.

    ``shares`` (0 to 1) and ``rows`` are by quarter, from the lowest up, fewer where equal values fill more than one;
    ``p`` is that of χ² against the same share in each, ``adjusted`` over all pairs tried (Benjamini–Hochberg).
    """

    column: str
    other: str
    shares: tuple[float, ...]
    rows: tuple[int, ...]
    chi_square: float
    p: float
    adjusted: float

    @property
    def sentence(self) -> str:
        """Where most of the gaps are, and how sure that is."""
        worst = int(np.argmax(self.shares))
        elsewhere = sum(self.rows) - self.rows[worst]
        gaps = sum(share * rows for share, rows in zip(self.shares, self.rows, strict=True))
        others = (gaps - self.shares[worst] * self.rows[worst]) / elsewhere if elsewhere else 0.0
        where = _QUARTERS[worst] if len(self.shares) == len(_QUARTERS) else f"part {worst + 1} of {len(self.shares)}"
        return (
            f"{self.column} is missing in {per_cent(self.shares[worst], 1)} of the rows in the {where} quarter of "
            f"{self.other}, in {per_cent(others, 1)} of the others ({p_value(self.adjusted)}, adjusted)."
        )


@dataclass(frozen=True)
class MissingLinks:
    """The ``links`` with an adjusted p below `LEVEL`, the surest first; ``tried`` is how many pairs were looked at."""

    links: tuple[MissingLink, ...]
    tried: int

    @property
    def sentence(self) -> str:
        """What was found of all pairs."""
        if not self.tried:
            return "Too few cells are missing to ask whether gaps go with the values of another column."
        if not self.links:
            return (
                f"Gaps go with the values of no other column ({plural(self.tried, 'pair')} tried, adjusted p ≥ 0.05)."
            )
        return f"Gaps go with the values of another column in {len(self.links)} of {plural(self.tried, 'pair')} tried:"


def missing_links(table: Table, progress: Progress = silent) -> MissingLinks:
    """Of each column with gaps and each other numeric one, whether the gaps are spread evenly over its quarters.

    Missing and unread cells count as gaps. Quarters end at the quartiles of the values there are; of the most gappy
    columns 40 are looked at. Raises what ``progress`` raises.

    References
    ----------
    Little, R. J. A., Rubin, D. B. 2002: Statistical analysis with missing data. 2nd ed., Wiley, section 1.3.
    Pearson, K. 1900: On the criterion that a given system of deviations … Philosophical Magazine 50, 157-175 (χ²).
    """
    gappy = sorted((c for c in table.as_read if not c.present.all()), key=lambda c: int(c.present.sum()))[:_MOST_GAPPY]
    numeric = [column for column in table.as_read.numeric if column.is_data]
    if not gappy:
        return MissingLinks((), 0)
    gaps = [np.flatnonzero(~column.present) for column in gappy]
    found: list[tuple[str, str, Floats, Floats, float, float]] = []
    for done, other in enumerate(numeric):
        progress(done / len(numeric), f"asking whether gaps go with {other.name}")
        quarters = _quarters(other)
        parts = int(quarters.max(initial=-1)) + 1
        if parts < 2:
            continue
        rows = _counted(quarters, parts)
        for column, missing in zip(gappy, gaps, strict=True):
            counts = _counted(quarters[missing], parts)
            tested = _chi_square(counts, rows) if column is not other else None
            if tested is not None:
                found.append((column.name, other.name, counts / rows, rows, *tested))
    return _linked(found)


def _quarters(column: Column) -> Ints:
    """The quarter of each row, from 0; −1 where the column has no value. Equal values are in the same one."""
    sample = column.sample
    quarters: Ints = np.full(column.rows, -1, dtype=np.int64)
    if not sample.n:
        return quarters
    ends = [quantile(sample.sorted, p) for p in (0.25, 0.5, 0.75)]
    starts = np.concatenate([[0], np.searchsorted(sample.sorted, ends, side="right"), [sample.n]])
    # A value that fills more than a quarter leaves others empty.
    filled = np.diff(starts)
    part = np.cumsum(filled > 0) - 1
    quarters[sample.rows] = np.repeat(part, filled)
    return quarters


def _counted(quarters: Ints, parts: int) -> Floats:
    """How many of ``quarters`` are each of the ``parts``; −1 is none."""
    return np.bincount(quarters + 1, minlength=parts + 1)[1:].astype(np.float64)


def _chi_square(gaps: Floats, rows: Floats) -> tuple[float, float] | None:
    """χ² of the same share of ``gaps`` in all quarters and its p; None where too few are expected in one of them."""
    share = gaps.sum() / rows.sum()
    expected = share * rows
    if expected.min() < _LEAST_EXPECTED or (rows - expected).min() < _LEAST_EXPECTED:
        return None
    deviations = gaps - expected
    chi_square = float(np.sum(deviations**2 / expected + deviations**2 / (rows - expected)))
    return chi_square, float(chdtrc(rows.size - 1, chi_square))


def _linked(found: list[tuple[str, str, Floats, Floats, float, float]]) -> MissingLinks:
    adjusted = benjamini_hochberg(np.array([p for *_, p in found]))
    links = [
        MissingLink(column, other, tuple(shares.tolist()), tuple(map(int, rows)), chi_square, p, float(own))
        for (column, other, shares, rows, chi_square, p), own in zip(found, adjusted, strict=True)
        if own < LEVEL
    ]
    return MissingLinks(tuple(sorted(links, key=lambda each: (each.adjusted, -max(each.shares)))), len(found))
