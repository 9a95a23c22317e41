"""What everything else is computed with: samples, sums, moments, orders, quantiles."""
