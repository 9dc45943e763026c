"""The library of materials as this shop has it."""
