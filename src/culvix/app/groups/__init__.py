"""The Groups stage."""
