"""Small parts that panes are built from."""
