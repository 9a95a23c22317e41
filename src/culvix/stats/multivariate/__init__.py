"""Rows over several columns."""
