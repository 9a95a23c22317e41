"""The Relations stage."""
