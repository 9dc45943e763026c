"""Live readings: what a logger on a press sends, as it comes."""
