"""What pictures of groups show."""
