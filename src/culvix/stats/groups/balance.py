"""How evenly rows are spread over categories."""

from dataclasses import dataclass

import numpy as np
from scipy.special import chdtrc

from culvix.stats.core.arrays import Ints

__all__ = ["Balance", "balance"]


@dataclass(frozen=True)
class Balance:
    """Shares (0 to 1) of the largest and the smallest of ``categories``, and how far all are from equal ones.

    ``chi_square`` has ``categories`` − 1 degrees of freedom, ``p`` is that of equal shares; ``evenness`` is the entropy
    as a share of the most there can be, 1 where all are equally frequent. All three are None for one category.
    """

    categories: int
    n: int
    largest: float
    smallest: float
    chi_square: float | None
    p: float | None
    evenness: float | None


def balance(counts: Ints) -> Balance | None:
    """The balance of categories.

    Parameters
    ----------
    counts
        Rows of each category, shape ``(categories,)``, whole numbers above 0.

    Returns
    -------
    Balance or None
        None where there are no categories.

    References
    ----------
    Pearson, K. 1900: On the criterion that a given system of deviations … Philosophical Magazine 50, 157-175 (χ²).
    Shannon, C. E. 1948: A mathematical theory of communication. Bell System Technical Journal 27, 379-423 (entropy).
    Pielou, E. C. 1966: The measurement of diversity in different types of biological collections. Journal of
    Theoretical Biology 13, 131-144 (entropy as a share of the most).
    """
    k, n = int(counts.size), int(counts.sum())
    if not k or not n:
        return None
    shares = counts / n
    largest, smallest = float(shares.max()), float(shares.min())
    if k == 1:
        return Balance(k, n, largest, smallest, None, None, None)
    expected = n / k
    chi_square = float(np.sum((counts - expected) ** 2) / expected)
    some = shares[shares > 0]
    evenness = float(-np.sum(some * np.log(some)) / np.log(k))
    return Balance(k, n, largest, smallest, chi_square, float(chdtrc(k - 1, chi_square)), min(evenness, 1.0))
