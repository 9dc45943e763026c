"""Windows of recipes on a press."""
