"""Files in, typed columns out. Nothing is coerced in silence: what is not a number is known by row."""

from culvix.tables.reading import read_table
from culvix.tables.table import Column, Role, Source, Table

__all__ = ["Column", "Role", "Source", "Table", "read_table"]
