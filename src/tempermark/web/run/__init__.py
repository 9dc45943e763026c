"""Test presses and the marks seen on them."""
