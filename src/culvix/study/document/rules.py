"""Rules: how the rows of a decision are found, so that the same decision can be made again on another table."""

from dataclasses import dataclass
from math import isfinite

from culvix.errors import DecisionError
from culvix.stats.registry import OUTLIER_METHODS

__all__ = ["Rule", "agreed", "between", "flagged_by"]


@dataclass(frozen=True)
class Rule:
    """Rows of one column: those flagged by ``method``, by at least ``least`` methods, or from ``low`` to ``high``.

    The ends of an interval are in the column's unit; None leaves one open.
    """

    kind: str
    method: str | None = None
    least: int = 0
    low: float | None = None
    high: float | None = None

    @property
    def text(self) -> str:
        """The rule as a sentence has it: "all values flagged by fences"."""
        if self.kind == "flagged":
            method = OUTLIER_METHODS[self.method or ""]
            return f"all values {'outside the valid range' if method.follows_range else f'flagged by {method.name}'}"
        if self.kind == "agreed":
            return f"all values flagged by at least {self.least} method{'s' if self.least > 1 else ''}"
        ends = ["" if end is None else f"{end:.12g}" for end in (self.low, self.high)]
        if ends[0] and ends[1]:
            return f"all values from {ends[0]} to {ends[1]}"
        return f"all values {'from' if ends[0] else 'up to'} {ends[0] or ends[1]}"


def flagged_by(method: str) -> Rule:
    """All values that ``method`` flags. Raises DecisionError for a method there is none of."""
    if method not in OUTLIER_METHODS:
        raise DecisionError(f"There is no outlier method {method!r}.")
    return Rule("flagged", method=method)


def agreed(least: int) -> Rule:
    """All values that at least ``least`` of the chosen methods flag. Raises DecisionError below 1."""
    if least < 1:
        raise DecisionError("At least one method must flag a value.")
    return Rule("agreed", least=least)


def between(low: float | None, high: float | None) -> Rule:
    """All values from ``low`` to ``high``. Raises DecisionError where both are open, or one is not finite."""
    ends = [end for end in (low, high) if end is not None]
    if not ends:
        raise DecisionError("An interval of values needs an end.")
    if not all(map(isfinite, ends)):
        raise DecisionError("The ends of an interval are finite numbers.")
    return Rule("between", low=low, high=high)
