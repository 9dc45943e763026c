"""The page of live readings."""
