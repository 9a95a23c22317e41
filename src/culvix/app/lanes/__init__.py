"""What the hand does on lanes."""
