"""Delimited text: its dialect, its records, its cells."""
