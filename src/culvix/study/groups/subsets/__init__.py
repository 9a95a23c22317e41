"""Subsets of rows that differ from the rest."""
