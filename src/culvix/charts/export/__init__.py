"""Pictures as files."""
