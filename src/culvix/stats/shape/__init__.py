"""The shape of a column: histogram, density, Q-Q points, transformations, peaks."""
