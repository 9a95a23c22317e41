"""The array types the statistics are written in."""

import numpy as np
from numpy.typing import NDArray

__all__ = ["Bools", "Floats", "Ints"]

Bools = NDArray[np.bool_]
Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
