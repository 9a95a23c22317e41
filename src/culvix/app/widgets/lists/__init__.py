"""Lists and tables of items."""
