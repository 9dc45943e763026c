"""Scoring: five-step scales with drawn reference swatches."""
