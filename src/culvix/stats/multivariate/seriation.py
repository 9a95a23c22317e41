"""An order of columns in which those that go together stand together, and the blocks they form."""

from dataclasses import dataclass

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints

__all__ = ["Seriation", "seriation"]


@dataclass(frozen=True, eq=False)
class Seriation:
    """``order`` has the columns (from 0) in their new places; ``blocks`` are stretches of it, first and one past last.

    ``blocks`` have at least two columns each and do not overlap.
    """

    order: Ints
    blocks: tuple[tuple[int, int], ...]


def seriation(strength: Floats, *, together: float = 0.5) -> Seriation:
    """Order columns by how strongly they are related.

    Columns are joined into clusters by the mean strength between them (average linkage), and of the two ways round each
    cluster can lie, the one is taken that brings the stronger pair of ends together.

    Parameters
    ----------
    strength
        How strongly each two columns are related, 0 to 1, symmetric, shape ``(k, k)``; NaN counts as 0, the diagonal
        does not count.
    together
        The least mean strength at which clusters are one block.

    Returns
    -------
    Seriation
        Order and blocks.

    Raises
    ------
    StatisticsError
        For a matrix that is not square.

    References
    ----------
    Sokal, R. R. & Michener, C. D. 1958: A statistical method for evaluating systematic relationships. University of
    Kansas Science Bulletin 38, 1409-1438 (average linkage).
    Gruvaeus, G. & Wainer, H. 1972: Two additions to hierarchical cluster analysis. British Journal of Mathematical and
    Statistical Psychology 25, 200-206 (the way round).
    """
    if strength.ndim != 2 or strength.shape[0] != strength.shape[1]:
        raise StatisticsError("The strengths of all pairs make a square.")
    k = strength.shape[0]
    pairwise = np.nan_to_num(strength, nan=0.0)
    mean = pairwise.copy()
    np.fill_diagonal(mean, -1.0)
    clusters: dict[int, list[int]] = {column: [column] for column in range(k)}
    blocks: list[list[int]] | None = None
    while len(clusters) > 1:
        a, b = sorted(int(index) for index in np.unravel_index(np.argmax(mean), mean.shape))
        # Strengths only fall from one joining to the next: what is joined by now are the blocks.
        if blocks is None and mean[a, b] < together:
            blocks = [cluster for cluster in clusters.values() if len(cluster) > 1]
        one, other = clusters[a], clusters.pop(b)
        mean[a] = (len(one) * mean[a] + len(other) * mean[b]) / (len(one) + len(other))
        mean[:, a] = mean[a]
        mean[b, :] = mean[:, b] = mean[a, a] = -1.0
        clusters[a] = _end_to_end(one, other, pairwise)
    order = np.array([column for cluster in clusters.values() for column in cluster], dtype=np.int64)
    if blocks is None:
        blocks = [cluster for cluster in clusters.values() if len(cluster) > 1]
    ranks = np.argsort(order)
    stretches = [sorted(int(ranks[column]) for column in block) for block in blocks]
    return Seriation(order, tuple(sorted((block[0], block[-1] + 1) for block in stretches)))


def _end_to_end(one: list[int], other: list[int], strength: Floats) -> list[int]:
    """Both clusters in a row, each the way round that brings the strongest pair of ends together."""
    ways = [(a, b) for a in (one, one[::-1]) for b in (other, other[::-1])]
    first, second = max(ways, key=lambda way: strength[way[0][-1], way[1][0]])
    return first + second
