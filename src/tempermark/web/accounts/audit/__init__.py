"""The audit record: looked through, taken out, and the history of one thing."""
