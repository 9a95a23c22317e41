"""Axes."""
