"""From a file of any kind to a table."""
