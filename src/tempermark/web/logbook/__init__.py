"""The logbook: every press found again, compared, counted, and traced back to the readings."""
