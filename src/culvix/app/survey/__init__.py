"""The Survey stage."""
