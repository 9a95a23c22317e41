"""How long work tells what it is doing, and learns that it should stop."""

from collections.abc import Callable

__all__ = ["Progress", "silent"]

Progress = Callable[[float, str], None]
"""Called with the share done (0 to 1) and a few words; raises `Cancelled` where the work should stop."""


def silent(share: float, doing: str) -> None:
    """A progress nobody watches."""
