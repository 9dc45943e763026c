"""The bench: run mode, and the log that writes itself."""
