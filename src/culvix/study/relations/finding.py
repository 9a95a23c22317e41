"""What may be found of a pair of columns, and the rows of a pair that rules look at."""

from dataclasses import dataclass
from math import isfinite, sqrt

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.correlation.result import PairCorrelation

__all__ = ["FEWEST_ROWS", "KINDS", "LEVEL", "Candidate", "PairRows", "RelationFinding", "drawn_in", "quick_r"]

LEVEL = 0.05
FEWEST_ROWS = 8

KINDS = {
    "reversal": "turns within groups",
    "one_row": "one row decides",
    "curve": "bends",
    "part": "only in part",
    "spread": "spread changes",
    "near_copy": "near-copy",
    "lost": "rows lost",
}
"""The kinds of findings, by key, in few words."""


@dataclass(frozen=True)
class RelationFinding:
    """A ``sentence`` about the pair ``x``, ``y``, of one of `KINDS`; ``by`` are groups, ``row`` is one from 0."""

    kind: str
    x: str
    y: str
    sentence: str
    by: str | None = None
    row: int | None = None


@dataclass(frozen=True, eq=False)
class PairRows:
    """Two columns over the ``rows`` (from 0) where both have a value."""

    x: str
    y: str
    rows: Ints
    a: Floats
    b: Floats
    r: PairCorrelation


@dataclass(frozen=True)
class Candidate:
    """A finding that stands if its p, adjusted for all pairs that were tried, is below `LEVEL`."""

    p: float
    finding: RelationFinding


def quick_r(a: Floats, b: Floats) -> float:
    """Pearson's r without care for its last digits, 0 where there is none: to see what is worth a closer look."""
    x, y = a - a.mean(), b - b.mean()
    squares = float(x @ x) * float(y @ y)
    return float(x @ y) / sqrt(squares) if isfinite(squares) and squares > 0 else 0.0


def drawn_in(values: Floats, share: float) -> Floats:
    """``values`` with that ``share`` at either end, at least one of them, drawn in to the next."""
    ordered = np.sort(values)
    beyond = max(int(share * values.size), 1)
    return np.clip(values, ordered[beyond], ordered[values.size - 1 - beyond])
