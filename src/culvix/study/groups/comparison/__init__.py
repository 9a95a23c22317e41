"""Groups compared: the test, its effects, its words."""
