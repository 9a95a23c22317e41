"""Subsets of rows, found or said."""
