"""Conventions, looks and what is looked at."""
