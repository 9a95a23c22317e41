"""Seeded resampling and simulation, and p values of many tests at once."""
