"""The temperature everywhere between the readings, and what is decided from it."""
