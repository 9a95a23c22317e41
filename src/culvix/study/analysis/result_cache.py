"""Parts of analyses worked out before, of which the ones used last are kept."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import TypeVar, cast

import numpy as np

__all__ = ["ALL_PARTS", "PartCache", "size_of"]

ALL_PARTS = 24 << 20
"""Bytes that the parts kept of all columns of a study together may take."""

_Part = TypeVar("_Part")
_MOST, _LEAST = 200, 40
"""Parts kept of one column: at the most, and as many as one state has, however large they are."""
_PLAIN = 64
_DEEP = 4


def size_of(part: object, depth: int = 0) -> int:
    """About how many bytes ``part`` takes: those of the arrays in it, and in what it is made of."""
    if isinstance(part, np.ndarray):
        return int(part.nbytes)
    if depth >= _DEEP:
        return _PLAIN
    inside: list[object] = []
    if isinstance(part, dict):
        inside = list(part.values())
    elif isinstance(part, tuple | list):
        inside = list(part)
    elif hasattr(part, "__dict__"):
        inside = list(vars(part).values())
    return _PLAIN + sum(size_of(each, depth + 1) for each in inside)


class PartCache:
    """Parts by what they depend on; may be used by several threads, which may make the same part at the same time."""

    def __init__(self, budget: int = 1 << 26, most: int = _MOST, least: int = _LEAST) -> None:
        """At most ``most`` parts are kept; beyond ``least`` of them, no more than ``budget`` bytes."""
        self._budget, self._most, self._least = budget, most, least
        self._parts: OrderedDict[Hashable, tuple[object, int]] = OrderedDict()
        self._size = 0
        self._lock = Lock()

    def __len__(self) -> int:
        return len(self._parts)

    def part(self, depends: Hashable, make: Callable[[], _Part]) -> _Part:
        """What ``make`` makes of ``depends``, taken from here where it was made before."""
        with self._lock:
            if depends in self._parts:
                self._parts.move_to_end(depends)
                return cast(_Part, self._parts[depends][0])
        made = make()
        size = size_of(made)
        with self._lock:
            if depends not in self._parts:
                self._parts[depends] = (made, size)
                self._size += size
            # Where another thread was first, its part stays.
            cached = self._parts[depends][0]
            self._parts.move_to_end(depends)
            while len(self._parts) > self._most or (self._size > self._budget and len(self._parts) > self._least):
                self._size -= self._parts.popitem(last=False)[1][1]
        return cast(_Part, cached)
