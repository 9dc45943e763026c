"""Units on screen, small helpers, audit; owns no business model."""
