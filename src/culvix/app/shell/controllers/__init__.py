"""What the window does, each kind of it in a controller of its own."""
