"""Documents of test presses that teach."""
