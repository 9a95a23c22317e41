"""Sets of rows as arrays: ascending, each row once.

Of long integer arrays `numpy.unique`, and what is made of it, keeps every other thread waiting for as long as it takes;
sorting and marking do not.
"""

from collections.abc import Iterable

import numpy as np

from culvix.stats.core.arrays import Ints

__all__ = ["as_rows", "union"]


def as_rows(rows: Iterable[int] | Ints) -> Ints:
    """``rows`` (from 0) ascending, each once."""
    given = rows if isinstance(rows, np.ndarray) else np.fromiter(rows, dtype=np.int64)
    ordered = given.astype(np.int64)
    if not bool((ordered[1:] > ordered[:-1]).all()):
        ordered.sort()
        ordered = ordered[np.concatenate(([True], ordered[1:] > ordered[:-1]))]
    return ordered


def union(*parts: Ints) -> Ints:
    """All rows (from 0) of ``parts``, ascending and each once."""
    most = max((int(part.max()) for part in parts if part.size), default=-1)
    if sum(part.size for part in parts) < most // 100:
        return as_rows(np.concatenate(parts))
    found = np.zeros(most + 1, dtype=bool)
    for part in parts:
        found[part] = True
    return np.flatnonzero(found)
