"""A press over dials and days: its line, its dial, its drift, its state."""
