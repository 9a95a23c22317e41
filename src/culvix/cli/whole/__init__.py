"""Commands on tables that stay where they are."""
