"""Calibration certificates: a survey as a lead signed it, as a page, PDF and JSON."""
