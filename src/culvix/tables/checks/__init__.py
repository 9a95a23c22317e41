"""What looks wrong with a table before anything is computed."""
