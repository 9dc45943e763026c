"""Test presses that teach: ladders, comparisons, factorials, searches, and wash trials."""
