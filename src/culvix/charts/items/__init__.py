"""What lanes and plots are made of."""
