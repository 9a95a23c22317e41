"""Culvix: a desktop bench for profiling the numeric columns of a table."""

import os

from culvix.version import VERSION as __version__

__all__ = ["__version__"]

# Before NumPy is loaded: columns are worked on side by side, and the threads of its linear algebra, which wait busily,
# would take the time from them. Sums come out the same on every machine, too. Whoever set a number keeps it.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
