"""What pictures are drawn from: small frozen data."""
