"""Weighted sums over ordered values whose weight is a smooth function of the rank.

Over a row of neighbouring ranks such a weight is a polynomial of low degree, exactly or to within rounding, so that it
is needed at a few Chebyshev nodes of each row only and the sum becomes a matrix product.
"""

from functools import lru_cache

import numpy as np

from culvix.stats.core.arrays import Floats

__all__ = ["between_nodes", "chebyshev_nodes", "polynomial_at", "spreading"]


@lru_cache(maxsize=8)
def chebyshev_nodes(ranks: int, nodes: int) -> Floats:
    """``nodes`` Chebyshev nodes over the places 0 to ``ranks`` − 1 of a row."""
    middle = (ranks - 1) / 2
    return np.asarray(middle + middle * np.polynomial.chebyshev.chebpts1(nodes))


@lru_cache(maxsize=8)
def spreading(ranks: int, nodes: int) -> Floats:
    """The matrix, shape ``(ranks, nodes)``, that takes a polynomial's values at the nodes to those at all ranks."""
    return polynomial_at(ranks, nodes, np.arange(ranks, dtype=np.float64))


@lru_cache(maxsize=8)
def between_nodes(ranks: int, many: int, few: int) -> Floats:
    """The matrix, shape ``(many, few)``, that takes a polynomial's values at ``few`` nodes to those at ``many``.

    Sums spread over ``many`` nodes, times it, are spread over ``few``.
    """
    return polynomial_at(ranks, few, chebyshev_nodes(ranks, many))


def polynomial_at(ranks: int, nodes: int, positions: Floats) -> Floats:
    """The matrix that takes a polynomial's values at the nodes of a row to those at ``positions`` (shape ``(m,)``)."""
    middle = (ranks - 1) / 2
    vander = np.polynomial.chebyshev.chebvander
    at_nodes = vander((chebyshev_nodes(ranks, nodes) - middle) / middle, nodes - 1)
    return np.asarray(vander((positions - middle) / middle, nodes - 1) @ np.linalg.inv(at_nodes))
