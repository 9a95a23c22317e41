"""Files that are written: the report, tables, lines of the survey."""
