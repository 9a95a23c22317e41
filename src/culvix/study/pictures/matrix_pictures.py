"""The picture of all pairs of columns at once: coefficients on either side of the diagonal, or the pairs themselves."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.multivariate.seriation import seriation
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.pictures.groups.small_pictures import Small, SmallPictures
from culvix.study.relations.category_matrix import CategoryMatrix
from culvix.study.relations.ranking import Relations

__all__ = [
    "DIFFERENCE",
    "MATRIX_ORDERS",
    "PICTURES",
    "MatrixPicture",
    "matrix_picture",
    "side_name",
]

MATRIX_ORDERS = {"similarity": "by similarity", "table": "as in the table", "name": "by name", "hand": "by hand"}

PICTURES = "pictures"
DIFFERENCE = "difference"
"""What one side can show besides the kinds of coefficients: the pairs, and how far the kinds lie apart."""

_BY_RANKS = ("spearman", "kendall")
_USUAL = tuple(CORRELATION_KINDS)[:2]
"""The kinds of which a difference is shown."""


@dataclass(frozen=True, eq=False)
class MatrixPicture:
    """Columns ``names`` in the order drawn, and what stands on either side of the diagonal.

    ``column_indices`` has the index of each column in the table. ``upper`` and ``lower`` are coefficients in the order
    drawn, shape ``(k, k)``, NaN where a pair has none; ``lower`` is None where there are pictures, which ``smalls`` has
    for each column. Pairs with one of the ``categories``, places in the order drawn, have a strength without a sign,
    named by ``symbols``, and pictures of their own under row and column: ``boxes`` by category, ``counts`` of two.
    ``blocks`` are stretches of columns that go together.
    """

    names: tuple[str, ...]
    column_indices: Ints
    upper: Floats
    lower: Floats | None
    n: Ints
    smalls: tuple[Small, ...]
    blocks: tuple[tuple[int, int], ...]
    upper_name: str
    lower_name: str
    categories: frozenset[int] = frozenset()
    symbols: tuple[str, str] = ("η", "η")
    boxes: Mapping[tuple[int, int], Floats] = field(default_factory=lambda: MappingProxyType({}))
    counts: Mapping[tuple[int, int], Floats] = field(default_factory=lambda: MappingProxyType({}))

    def symbol(self, row: int, column: int) -> str:
        """What the strength of a pair is called that has a category; empty for two columns of numbers."""
        if not self.categories:
            return ""
        has = (row in self.categories) + (column in self.categories)
        return ("", self.symbols[int(row > column)], "V")[has]

    def is_grouped(self, row: int, column: int) -> bool:
        """Whether the small picture of a pair is one by group."""
        if not self.boxes and not self.counts:
            return False
        return any(cell in drawn for cell in ((row, column), (column, row)) for drawn in (self.boxes, self.counts))

    @property
    def sentence(self) -> str:
        """What the picture shows, for those who cannot see it."""
        r = np.abs(np.triu(np.nan_to_num(self.upper), 1))
        if len(self.names) < 2:
            return "No pair of columns."
        i, j = np.unravel_index(int(np.argmax(r)), r.shape)
        return f"All pairs of {len(self.names)} columns; the strongest is {self.names[i]} and {self.names[j]}."


def matrix_picture(
    relations: Relations,
    smalls: SmallPictures | None = None,
    *,
    order: str,
    upper: str,
    lower: str,
    categories: CategoryMatrix | None = None,
    by_hand: Sequence[str] = (),
) -> MatrixPicture:
    """The picture of ``relations`` in an ``order`` of `MATRIX_ORDERS`, and of the ``categories`` beside them.

    Columns that the order ``by_hand`` does not name stand behind it. ``smalls`` has the small picture of each column
    and pair, or is None where there are too many. ``upper`` and ``lower`` are keys of coefficients, `DIFFERENCE`, or
    `PICTURES`, for the lower side only and where there are ``smalls``.
    """
    matrices = relations.matrices
    columns = relations.columns if categories is None else categories.columns
    pictured = lower == PICTURES and smalls is not None
    if lower == PICTURES and not pictured:
        lower = list(matrices)[-1]
    every = _Square(relations, categories, tuple(columns.index(name) for name in relations.columns), len(columns))
    indices: Ints = np.arange(len(columns))
    blocks: tuple[tuple[int, int], ...] = ()
    if order == "similarity":
        found = seriation(np.max([np.abs(np.nan_to_num(every.side(key))) for key in matrices if key in _USUAL], axis=0))
        indices, blocks = found.order, found.blocks
    elif order == "name":
        indices = np.array(sorted(indices, key=lambda column: columns[column].casefold()), dtype=np.int64)
    elif order == "hand":
        ranks = {name: rank for rank, name in enumerate(by_hand)}
        indices = np.array(sorted(indices, key=lambda at: ranks.get(columns[at], len(ranks))), dtype=np.int64)
    across, names = np.ix_(indices, indices), tuple(columns[index] for index in indices)
    shown: SmallPictures = smalls if pictured and smalls is not None else SmallPictures({})
    return MatrixPicture(
        names,
        indices,
        every.side(upper)[across],
        None if pictured else every.side(lower)[across],
        every.n[across],
        tuple(shown.columns[name] for name in names) if pictured else (),
        blocks,
        side_name(upper),
        side_name(lower),
        frozenset(at for at, name in enumerate(names) if categories is not None and name in categories.categories),
        (_category_symbol(upper), _category_symbol(lower)),
        _placed(shown.boxes, names),
        _placed(shown.counts, names),
    )


@dataclass(frozen=True, eq=False)
class _Square:
    """All columns of a matrix, ``size`` of them: those of ``relations`` stand at ``numeric``, the rest are others."""

    relations: Relations
    categories: CategoryMatrix | None
    numeric: tuple[int, ...]
    size: int

    def side(self, key: str) -> Floats:
        """What stands on a side that shows ``key``, shape ``(size, size)``."""
        made = np.full((self.size, self.size), np.nan)
        beside = self.categories
        if beside is not None and key == DIFFERENCE:
            made = beside.of_ranks - beside.of_values
        elif beside is not None:
            made = (beside.of_ranks if key in _BY_RANKS else beside.of_values).copy()
        made[np.ix_(self.numeric, self.numeric)] = _side(self.relations, key)
        return made

    @property
    def n(self) -> Ints:
        made = np.zeros((self.size, self.size), np.int64) if self.categories is None else self.categories.n.copy()
        made[np.ix_(self.numeric, self.numeric)] = next(iter(self.relations.matrices.values())).n
        return made


def _placed(pairs: Mapping[tuple[str, str], Floats], names: Sequence[str]) -> dict[tuple[int, int], Floats]:
    """What there is of ``pairs``, by the places of both columns."""
    order = {name: index for index, name in enumerate(names)}
    return {(order[x], order[y]): found for (x, y), found in pairs.items() if x in order and y in order}


def _category_symbol(key: str) -> str:
    if key == DIFFERENCE:
        return "ε − η"
    return "ε" if key in _BY_RANKS else "η"


def _side(relations: Relations, key: str) -> Floats:
    if key == DIFFERENCE:
        first, last = (relations.matrices[kind] for kind in _USUAL)
        return np.asarray(np.abs(last.r) - np.abs(first.r))
    return relations.matrices[key].r


def side_name(key: str) -> str:
    """What a side of the matrix is called that shows ``key``."""
    if key in CORRELATION_KINDS:
        return f"{CORRELATION_KINDS[key].name} {CORRELATION_KINDS[key].symbol}"
    return {PICTURES: "pictures", DIFFERENCE: "|ρ| − |r|"}[key]
