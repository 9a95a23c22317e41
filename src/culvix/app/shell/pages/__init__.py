"""What stands in the window beside the stages."""
