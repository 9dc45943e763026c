"""Surveys of an element, reading by reading."""
