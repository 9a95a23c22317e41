"""Correlation of pairs of columns and of whole tables."""
