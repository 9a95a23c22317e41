"""Numbers that describe one column, with their intervals."""
