"""Parts of analyses worked out before, of which the ones used last are kept."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import TypeVar, cast

__all__ = ["PartCache"]

_Part = TypeVar("_Part")
_MOST = 200
"""Parts kept of one column: those of some ten states, each of which has about twenty."""


class PartCache:
    """Parts by what they depend on; may be used by several threads, which may make the same part at the same time."""

    def __init__(self, most: int = _MOST) -> None:
        self._most = most
        self._parts: OrderedDict[Hashable, object] = OrderedDict()
        self._lock = Lock()

    def __len__(self) -> int:
        return len(self._parts)

    def part(self, depends: Hashable, make: Callable[[], _Part]) -> _Part:
        """What ``make`` makes of ``depends``, taken from here where it was made before."""
        with self._lock:
            if depends in self._parts:
                self._parts.move_to_end(depends)
                return cast(_Part, self._parts[depends])
        made = make()
        with self._lock:
            # Where another thread was first, its part stays.
            kept = self._parts.setdefault(depends, made)
            self._parts.move_to_end(depends)
            while len(self._parts) > self._most:
                self._parts.popitem(last=False)
        return cast(_Part, kept)
