"""Setting a press for a blank, and learning its pressure."""
