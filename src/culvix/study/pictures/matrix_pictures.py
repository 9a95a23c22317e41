"""The picture of all pairs of columns at once: coefficients on either side of the diagonal, or the pairs themselves."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.multivariate.seriation import seriation
from culvix.stats.registry import CORRELATION_KINDS
from culvix.stats.shape.axis_scale import AxisScale
from culvix.study.pictures.thinning import few
from culvix.study.relations.ranking import Relations

__all__ = [
    "DIFFERENCE",
    "MATRIX_ORDERS",
    "MOST_PICTURED",
    "PICTURES",
    "MatrixPicture",
    "Small",
    "matrix_picture",
    "side_name",
    "small",
]

MATRIX_ORDERS = {"similarity": "by similarity", "table": "as in the table", "name": "by name"}

PICTURES = "pictures"
DIFFERENCE = "difference"
"""What one side can show besides the kinds of coefficients: the pairs, and how far the kinds lie apart."""

MOST_PICTURED = 14
"""Up to so many columns each pair has a picture of its own."""

_DOTS = 260
_BARS = 24


@dataclass(frozen=True, eq=False)
class Small:
    """A column in small pictures: places 0 to 1 of some rows (shape ``(dots,)``, NaN where missing), and its bars."""

    dots: Floats
    bars: Floats


@dataclass(frozen=True, eq=False)
class MatrixPicture:
    """Columns ``names`` in the order drawn, and what stands on either side of the diagonal.

    ``places`` has the place of each column in `Relations.columns`. ``upper`` and ``lower`` are coefficients in the
    order drawn, shape ``(k, k)``, NaN where a pair has none; ``lower`` is None where there are pictures, which
    ``smalls`` has for each column. ``blocks`` are stretches of columns that go together.
    """

    names: tuple[str, ...]
    places: Ints
    upper: Floats
    lower: Floats | None
    n: Ints
    smalls: tuple[Small, ...]
    blocks: tuple[tuple[int, int], ...]
    upper_name: str
    lower_name: str

    @property
    def sentence(self) -> str:
        """What the picture shows, for those who cannot see it."""
        r = np.abs(np.triu(np.nan_to_num(self.upper), 1))
        if len(self.names) < 2:
            return "No pair of columns."
        i, j = np.unravel_index(int(np.argmax(r)), r.shape)
        return f"All pairs of {len(self.names)} columns; the strongest is {self.names[i]} and {self.names[j]}."


def small(values: Floats, scale: AxisScale) -> Small:
    """The small pictures of a column's ``values`` in use (shape ``(rows,)``) on the ``scale`` of its axis."""
    rows = few(np.arange(values.size), _DOTS)
    at = np.asarray(scale.positions(values), dtype=np.float64)
    known = at[np.isfinite(at)]
    if not known.size or not known.max() > known.min():
        return Small(np.where(np.isfinite(at[rows]), 0.5, np.nan), np.zeros(_BARS))
    low, reach = float(known.min()), float(known.max() - known.min())
    counts = np.bincount(np.minimum(((known - low) / reach * _BARS).astype(np.int64), _BARS - 1), minlength=_BARS)
    return Small((at[rows] - low) / reach, counts / counts.max())


def matrix_picture(
    relations: Relations, smalls: Sequence[Small], *, order: str, upper: str, lower: str
) -> MatrixPicture:
    """The picture of ``relations`` in an ``order`` of `MATRIX_ORDERS`.

    ``smalls`` has the small picture of each column, in the order of ``relations.columns``, or nothing where there are
    too many. ``upper`` and ``lower`` are keys of coefficients, `DIFFERENCE`, or `PICTURES`, for the lower side only and
    where there are ``smalls``.
    """
    matrices, k = relations.matrices, len(relations.columns)
    first = next(iter(matrices.values()))
    strengths = np.stack([np.abs(np.nan_to_num(matrix.r)) for matrix in matrices.values()])
    places: Ints = np.arange(k)
    blocks: tuple[tuple[int, int], ...] = ()
    if order == "similarity":
        found = seriation(strengths.max(axis=0))
        places, blocks = found.order, found.blocks
    elif order == "name":
        places = np.array(sorted(range(k), key=lambda column: relations.columns[column].casefold()), dtype=np.int64)
    across = np.ix_(places, places)
    pictured = lower == PICTURES and len(smalls) == k
    if lower == PICTURES and not pictured:
        lower = list(matrices)[-1]
    return MatrixPicture(
        tuple(relations.columns[place] for place in places),
        places,
        _side(relations, upper)[across],
        None if pictured else _side(relations, lower)[across],
        first.n[across],
        tuple(smalls[place] for place in places) if pictured else (),
        blocks,
        side_name(upper),
        side_name(lower),
    )


def _side(relations: Relations, key: str) -> Floats:
    if key == DIFFERENCE:
        kinds = list(relations.matrices.values())
        return np.asarray(np.abs(kinds[-1].r) - np.abs(kinds[0].r))
    return relations.matrices[key].r


def side_name(key: str) -> str:
    """What a side of the matrix is called that shows ``key``."""
    if key in CORRELATION_KINDS:
        return f"{CORRELATION_KINDS[key].name} {CORRELATION_KINDS[key].symbol}"
    return {PICTURES: "pictures", DIFFERENCE: "|ρ| − |r|"}[key]
