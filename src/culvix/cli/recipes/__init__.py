"""Commands that make and run recipes."""
