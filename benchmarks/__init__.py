"""Benchmarks: timings as ratios measured in one run, never asserted."""
