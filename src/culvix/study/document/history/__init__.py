"""Documents one after the other, and what each act is called."""
