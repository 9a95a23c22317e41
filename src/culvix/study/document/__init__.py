"""What the analyst said and chose: settings, decisions, marks, review, and the history of it."""
