"""Instruments and their checks."""
