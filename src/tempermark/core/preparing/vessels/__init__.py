"""Templates of vessels."""
