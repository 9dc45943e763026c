"""The made-up room of the demo, and what brings a room's data up to date."""
