"""What a test that compares groups returns, and the size of a difference with its interval."""

from dataclasses import dataclass

__all__ = ["Effect", "GroupTest", "no_effect", "no_test"]


@dataclass(frozen=True)
class GroupTest:
    """The ``statistic`` and two-sided ``p`` of a test of groups of these ``sizes``; None with a note where it has none.

    ``freedom`` has the degrees of freedom, as many as the distribution has. ``p_by`` says how p was found, where more
    than one way is in use.
    """

    key: str
    statistic: float | None
    p: float | None
    sizes: tuple[int, ...]
    freedom: tuple[float, ...] = ()
    note: str | None = None
    p_by: str | None = None


@dataclass(frozen=True)
class Effect:
    """How large a difference is: ``value`` with the interval from ``low`` to ``high`` at a ``confidence``, a share.

    All are None, with a note, where there is none; ends are None, too, where only the interval cannot be had.
    """

    key: str
    value: float | None
    low: float | None
    high: float | None
    confidence: float
    note: str | None = None


def no_test(key: str, sizes: tuple[int, ...], why: str) -> GroupTest:
    """The result for groups that cannot be tested."""
    return GroupTest(key, None, None, sizes, note=why)


def no_effect(key: str, confidence: float, why: str) -> Effect:
    """The size of a difference that has none."""
    return Effect(key, None, None, None, confidence, why)
