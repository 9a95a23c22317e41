"""How far categories tell of values or of other categories, and whether two columns agree."""
