"""Forms of the window."""
