"""What the dip test says, beside the peaks of the density."""

from culvix.stats.display import plural
from culvix.stats.shape.density import Density
from culvix.stats.shape.dip import DipResult

__all__ = ["dip_text"]


def dip_text(found: DipResult, density: Density | None, alpha: float) -> str:
    """The outcome of the test at the level ``alpha``, and how many peaks the ``density`` shows; empty without one."""
    if found.p is None:
        return found.note or ""
    shown = "" if density is None else f"The density shows {plural(int(density.peaks.size), 'peak')}. "
    if found.p.p <= alpha:
        return f"{shown}More than one peak, at α {alpha:g}: a mixture of groups?"
    return f"{shown}At α {alpha:g} one peak is not ruled out."
