"""Open formats of the bench."""
