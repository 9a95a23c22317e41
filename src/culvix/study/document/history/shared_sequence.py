"""Sequences of which the longer share the items of those they came from, so that thousands of states cost little."""

from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from threading import Lock
from typing import Generic, TypeVar, overload

__all__ = ["SharedSequence"]

_Item = TypeVar("_Item", covariant=True)
_growing = Lock()


class SharedSequence(Sequence[_Item], Generic[_Item]):
    """A sequence that never changes: the first ``size`` of some items, which others may share and go on with."""

    __slots__ = ("_items", "_size")

    def __init__(self, items: Iterable[_Item] = ()) -> None:
        self._items = list(items)
        self._size = len(self._items)

    def with_more(self, items: Iterable[_Item]) -> "SharedSequence[_Item]":
        """The same items, and then ``items``."""
        longer: SharedSequence[_Item] = SharedSequence()
        with _growing:
            if len(self._items) > self._size:
                # Another one has gone on from here already.
                longer._items = self._items[: self._size]
            else:
                longer._items = self._items
            longer._items.extend(items)
            longer._size = len(longer._items)
        return longer

    def starts_with(self, other: "SharedSequence[_Item]") -> bool:
        """Whether the first items are those of ``other``."""
        if other._size > self._size:
            return False
        return self._items is other._items or self._items[: other._size] == other._items[: other._size]

    def __len__(self) -> int:
        return self._size

    @overload
    def __getitem__(self, index: int) -> _Item: ...

    @overload
    def __getitem__(self, index: slice) -> "tuple[_Item, ...]": ...

    def __getitem__(self, index: int | slice) -> "_Item | tuple[_Item, ...]":
        if isinstance(index, slice):
            return tuple(self._items[position] for position in range(*index.indices(self._size)))
        if not -self._size <= index < self._size:
            raise IndexError(index)
        return self._items[index % self._size]

    def __iter__(self) -> Iterator[_Item]:
        return islice(self._items, self._size)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, SharedSequence):
            return NotImplemented
        return self._size == other._size and self.starts_with(other)

    __hash__ = None  # type: ignore[assignment]
