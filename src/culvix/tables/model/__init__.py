"""What a table is made of: cells, columns, roles, the dictionary, and where it came from."""
