"""Orders: taken, imported, read."""
