"""The knowledge of faults: its tables, how they are read, checked and shifted by a shop."""
