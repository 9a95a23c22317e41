"""What is found in columns and table, in sentences."""
