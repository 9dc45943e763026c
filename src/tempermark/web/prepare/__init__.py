"""Preparing a job: its list, its clocks, and the way on to the press."""
