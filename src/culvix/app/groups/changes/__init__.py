"""Another table beside the one in hand."""
