"""What follows from a table and what was said of it."""
