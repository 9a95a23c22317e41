"""Tables of a PostgreSQL server."""
