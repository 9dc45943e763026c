"""Readings, surveys and calibration lines: what the platen's temperature really is."""
