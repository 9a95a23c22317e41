"""Lines and smooth curves through two columns, and what single rows do to them."""
