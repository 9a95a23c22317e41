"""Groups of rows compared: which test fits, and what it says."""
