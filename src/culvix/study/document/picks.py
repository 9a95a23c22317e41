"""Line-ups that were looked at, with what was picked."""

from dataclasses import dataclass

from scipy.special import bdtrc

from culvix.stats.display import count
from culvix.stats.shape.line_up import FORMS, PANELS

__all__ = ["Pick", "chance_of"]


@dataclass(frozen=True)
class Pick:
    """One look at a line-up of ``column``: which picture was picked, and which was the real one (from 0)."""

    column: str
    form: str
    seed: int
    n: int
    picked: int
    position: int

    @property
    def right(self) -> bool:
        return self.picked == self.position

    @property
    def sentence(self) -> str:
        """The look in words, with its p."""
        kind = f"among {PANELS} {FORMS[self.form]}, n {count(self.n)}, seed {self.seed}"
        if self.right:
            return f"The real one was picked out {kind}: p = {1 / PANELS:g} against a normal."
        return f"Picture {self.picked + 1} was taken for the real one, which was {self.position + 1}, {kind}: p = 1."


def chance_of(picks: list[Pick]) -> float:
    """Chance of as many right picks of these line-ups, or more, if the values were normal (Majumder et al. 2013).

    It takes each look for an independent one.
    """
    right = sum(pick.right for pick in picks)
    return 1.0 if not right else float(bdtrc(right - 1, len(picks), 1 / PANELS))
