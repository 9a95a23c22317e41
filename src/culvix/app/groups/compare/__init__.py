"""Groups of rows compared."""
