"""What every test of normality returns, and the steps several of them share."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from culvix.stats.core.sample import Sample

__all__ = ["NormalityResult", "too_few"]


@dataclass(frozen=True)
class NormalityResult:
    """Outcome of one test on n values.

    ``statistic`` and ``p`` are None where the test cannot be made, and ``note`` says why; a note beside numbers is a
    caution. ``parts`` are what a statistic is made of, by name: normal score and two-sided p of each.
    """

    method: str
    symbol: str
    statistic: float | None
    p: float | None
    n: int
    note: str | None = None
    parts: Mapping[str, tuple[float, float]] = field(default_factory=dict)


def too_few(sample: Sample, method: str, symbol: str, smallest: int) -> NormalityResult | None:
    """The result that says why ``sample`` cannot be tested, or None where it can."""
    n = sample.n
    if n < smallest:
        why = f"Needs at least {smallest} values; there {'is' if n == 1 else 'are'} {n}."
        return NormalityResult(method, symbol, None, None, n, why)
    if sample.sorted[0] == sample.sorted[-1]:
        return NormalityResult(method, symbol, None, None, n, "All values are equal, so there is no shape to test.")
    if sample.moments is None or not sample.moments.sd:
        return NormalityResult(method, symbol, None, None, n, "The SD is beyond what a number can hold.")
    return None
