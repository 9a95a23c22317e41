"""Flags on the values of a column: which methods flag them, what they change, what chance alone would flag."""
