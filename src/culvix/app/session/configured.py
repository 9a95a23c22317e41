"""Objects of the interface made with their properties at once."""

from typing import TypeVar

from PyQt6.QtCore import QObject

__all__ = ["configured"]

_Object = TypeVar("_Object", bound=QObject)


def configured(made: _Object, **properties: object) -> _Object:
    """``made`` with its Qt properties set, in the order given; an unknown one raises AttributeError."""
    made.pyqtConfigure(**properties)
    return made
