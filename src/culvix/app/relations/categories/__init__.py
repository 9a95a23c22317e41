"""Pairs of categories."""
