"""The lanes of one column on a shared value axis."""
