"""The matrix of pairs of columns."""
