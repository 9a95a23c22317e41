"""Columns that are worked out from others."""
