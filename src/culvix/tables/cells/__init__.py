"""What stands in cells that are no plain numbers."""
