"""A press by its surveys: history, true temperature, calibration line, state."""
