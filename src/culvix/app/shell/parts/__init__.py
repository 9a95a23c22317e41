"""Parts of the window."""
