"""Helpers that a line of the list leads to, and that can be opened by themselves."""
