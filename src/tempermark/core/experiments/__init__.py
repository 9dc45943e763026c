"""Test presses that teach: what the scores so far say, and which press to try next."""
