"""Pressure maps: strips and scanned prints."""
