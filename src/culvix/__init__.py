"""Culvix: a desktop bench for profiling the numeric columns of a table."""

from culvix.version import VERSION as __version__

__all__ = ["__version__"]
