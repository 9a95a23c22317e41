"""All pairs that have a category, in one square over all columns of a table."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.study.relations.category_pairs import CategoryPair

__all__ = ["CategoryMatrix", "category_matrix"]


@dataclass(frozen=True, eq=False)
class CategoryMatrix:
    """How strongly the ``columns`` go together, as they stand in the table, where one of two is of ``categories``.

    ``of_values`` has the root of η², ``of_ranks`` that of ε²; of two categories both have Cramér's V. All are of shape
    ``(k, k)``, without a sign, NaN where both columns are numbers or there is none. ``n`` counts the rows with both.
    """

    columns: tuple[str, ...]
    categories: frozenset[str]
    of_values: Floats
    of_ranks: Floats
    n: Ints
    pairs: Mapping[frozenset[str], CategoryPair]


def category_matrix(columns: Sequence[str], pairs: Sequence[CategoryPair]) -> CategoryMatrix:
    """The square of ``columns``, as they stand in the table, from the ``pairs`` that have a category."""
    indices, k = {name: index for index, name in enumerate(columns)}, len(columns)
    of_values, of_ranks, n = np.full((k, k), np.nan), np.full((k, k), np.nan), np.zeros((k, k), np.int64)
    categories = set()
    for pair in pairs:
        i, j = indices[pair.x], indices[pair.y]
        categories |= {pair.x, pair.y} if pair.both else {pair.x}
        for matrix, found in ((of_values, pair.found), (of_ranks, pair.of_ranks or pair.found)):
            if found.value is not None:
                matrix[i, j] = matrix[j, i] = found.value if pair.both else np.sqrt(max(found.value, 0.0))
        n[i, j] = n[j, i] = pair.found.n
    named = {frozenset((pair.x, pair.y)): pair for pair in pairs}
    return CategoryMatrix(tuple(columns), frozenset(categories), of_values, of_ranks, n, named)
