"""A stack on a press: the course of the heat and what comes of it."""
