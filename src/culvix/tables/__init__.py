"""Files in, typed columns out. Nothing is coerced in silence: what is not a number is known by row."""

from culvix.tables.model.table import Column, Role, Source, Table
from culvix.tables.reading.reader import read_table

__all__ = ["Column", "Role", "Source", "Table", "read_table"]
