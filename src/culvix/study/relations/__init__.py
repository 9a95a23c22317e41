"""Pairs of columns: which belong together, and one of them closely."""
