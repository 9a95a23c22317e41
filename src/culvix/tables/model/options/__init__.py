"""How a file is read, and what can be meant in more than one way."""
