"""Charts of several columns, of pairs, of rows."""
