"""A pair of columns."""
