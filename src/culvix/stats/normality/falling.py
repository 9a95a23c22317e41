"""p values that several published formulas cover: joined so that p falls as the statistic rises, across every join."""

from collections.abc import Callable, Sequence
from math import exp, inf, log

__all__ = ["Piece", "falling"]

Piece = tuple[float, Callable[[float], float]]
"""A formula for p, and the statistic up to which it is used."""


def falling(x: float, pieces: Sequence[Piece], reach: float) -> float:
    """p of the statistic ``x`` by the first of ``pieces`` that reaches so far; the last one has no end.

    Formulas fitted apart need not meet where one takes over from the other. Within ``reach`` of that point the
    logarithm of p runs straight from the one to the other.
    """
    for (end, formula), (_, following) in zip(pieces, (*pieces[1:], (inf, None)), strict=True):
        if x < end - reach or following is None:
            return formula(x)
        if x < end + reach:
            above, below = log(formula(end - reach)), log(following(end + reach))
            return exp(above + (below - above) * (x - end + reach) / (2 * reach))
    raise AssertionError("the last piece has no end")
