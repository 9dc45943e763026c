"""Counts of pieces that are kept as they change: what is counted, kept, read."""
