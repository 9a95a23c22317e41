"""Calibration of the simultaneous Q-Q band:  python bench/qq_band.py

Prints the local levels of stats/qq_band.py. A normal sample standardised by its own mean and SD leaves the pointwise
Beta band of local level η somewhere with the probability tabulated; η is found as a quantile of the smallest local
p value over seeded samples.
"""

import numpy as np
from scipy.special import betainc, ndtr

SIZES = (3, 4, 5, 7, 10, 15, 20, 30, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 30_000, 100_000)
OUTSIDE = (0.5, 0.2, 0.1, 0.05, 0.02, 0.01, 0.005, 0.001)


def smallest_p(n: int, samples: int, draw: np.random.Generator) -> np.ndarray:
    """Smallest two-sided local p of each of ``samples`` standardised normal samples of n."""
    # Neighbours in the middle of a long sample say the same thing: every few of them is enough.
    keep = np.arange(n)
    if n > 3000:
        keep = np.unique(
            np.concatenate((np.arange(700), np.linspace(700, n - 701, 1200).astype(int), n - 1 - np.arange(700)))
        )
    rank = keep + 1.0
    found = np.empty(samples)
    block = max(1, 200_000 // n)
    for first in range(0, samples, block):
        x = np.sort(draw.standard_normal((min(block, samples - first), n)), axis=1)
        y = (x - x.mean(axis=1, keepdims=True)) / x.std(axis=1, ddof=1, keepdims=True)
        p = betainc(rank, n + 1 - rank, ndtr(y[:, keep]))
        found[first : first + len(x)] = 2 * np.minimum(p, 1 - p).min(axis=1)
    return found


def main() -> None:
    draw = np.random.Generator(np.random.PCG64(20260318))
    for n in SIZES:
        samples = 100_000 if n <= 200 else 20_000 if n <= 2000 else 6_000
        levels = np.quantile(smallest_p(n, samples, draw), OUTSIDE)
        print(f"    {n}: ({', '.join(f'{level:.3g}' for level in levels)}),")


if __name__ == "__main__":
    main()
