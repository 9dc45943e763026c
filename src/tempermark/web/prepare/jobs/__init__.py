"""A job: its preparation list, its art and print, its card."""
