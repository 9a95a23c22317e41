"""The Outliers stage."""
