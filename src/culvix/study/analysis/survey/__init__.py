"""All columns in a line each."""
