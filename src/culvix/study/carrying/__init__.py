"""Work that goes on with another table: another reading of the same file, or the file as it is by now."""
