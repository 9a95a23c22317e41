"""A property worked out once for each object, in which no thread waits for another.

The standard library's has, up to Python 3.11, one lock for all objects of a class: while a thread works out a long one,
every other that asks for the same property of another object would wait, the one that answers the user included. Two
threads that ask for the same one at the same time both work it out here, to the same result.
"""

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

__all__ = ["cached_property"]

_Value = TypeVar("_Value")


class cached_property(Generic[_Value]):  # it is written like the decorators it stands among
    """Decorates a method without arguments; its value is kept in the object's ``__dict__`` under its name."""

    def __init__(self, work_out: Callable[[Any], _Value]) -> None:
        self.work_out = work_out
        self.name = work_out.__name__
        self.__doc__ = work_out.__doc__

    @overload
    def __get__(self, instance: None, owner: type[Any] | None = None) -> "cached_property[_Value]": ...

    @overload
    def __get__(self, instance: object, owner: type[Any] | None = None) -> _Value: ...

    def __get__(self, instance: object | None, owner: type[Any] | None = None) -> "cached_property[_Value] | _Value":
        if instance is None:
            return self
        # From here on the object's own entry comes before this descriptor.
        value = instance.__dict__[self.name] = self.work_out(instance)
        return value
