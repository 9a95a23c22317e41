"""Recipes: what was said of one table in a form that says it again of the next, and where that needs a person."""
