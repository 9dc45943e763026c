"""Test presses: logged, marked, scored."""
