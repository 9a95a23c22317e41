"""This table against another one: columns matched, what has changed in each, and rows matched by a key."""
