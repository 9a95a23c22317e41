"""What smoothing needs of Fourier transforms, beside those of NumPy."""

from functools import lru_cache

import numpy as np

from culvix.stats.core.arrays import Floats

__all__ = ["cosine_transform", "fast_size"]


def fast_size(n: int) -> int:
    """The least even size from ``n`` ≥ 1 up that a transform cuts into halves but for a factor of 1, 3, 5, 9 or 15."""
    return min(factor << max((n - 1) // factor, 1).bit_length() for factor in (1, 3, 5, 9, 15))


def cosine_transform(x: Floats) -> Floats:
    """y_k = 2 Σ x_j cos(πk(2j+1)/2n) of ``x`` (shape ``(n,)``), by one real transform of n values (Makhoul 1980)."""
    n = x.size
    transformed = np.fft.rfft(np.concatenate((x[::2], x[1::2][::-1])))
    cosines, sines = _rotation(n)
    found = np.empty(n)
    # The second half of the transform is the mirror image of the first.
    first = transformed.size
    found[:first] = transformed.real * cosines[:first] + transformed.imag * sines[:first]
    mirrored = transformed[1 : n - first + 1][::-1]
    found[first:] = mirrored.real * cosines[first:] - mirrored.imag * sines[first:]
    found *= 2
    return found


@lru_cache(maxsize=4)
def _rotation(n: int) -> tuple[Floats, Floats]:
    angle = np.pi * np.arange(n) / (2 * n)
    return np.cos(angle), np.sin(angle)
