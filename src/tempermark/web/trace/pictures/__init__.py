"""Pictures of faults."""
