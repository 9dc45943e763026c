"""Fault cases from a mark to a proven fix."""
