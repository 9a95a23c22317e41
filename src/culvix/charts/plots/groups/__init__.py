"""Groups of rows beside each other, and their differences."""
