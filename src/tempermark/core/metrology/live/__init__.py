"""Live readings of a logger: which channels speak, since when it is steady, what loading does."""
