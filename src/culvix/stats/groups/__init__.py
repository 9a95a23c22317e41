"""Differences between samples."""
