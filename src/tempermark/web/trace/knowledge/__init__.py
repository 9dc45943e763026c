"""The knowledge of faults as this shop has it."""
