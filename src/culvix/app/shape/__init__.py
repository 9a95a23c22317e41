"""The Shape stage."""
