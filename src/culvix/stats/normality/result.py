"""What every test of normality returns."""

from dataclasses import dataclass

__all__ = ["NormalityResult"]


@dataclass(frozen=True)
class NormalityResult:
    """Outcome of one test on n values.

    ``statistic`` and ``p`` are None where the test cannot be made, and ``note`` says why; a note beside
    numbers is a caution.
    """

    method: str
    symbol: str
    statistic: float | None
    p: float | None
    n: int
    note: str | None = None
