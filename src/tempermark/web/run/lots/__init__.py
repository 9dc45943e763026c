"""Lots and marked sheets."""
