"""Facts of a case, each from its source."""
