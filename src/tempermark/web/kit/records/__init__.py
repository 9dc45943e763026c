"""The record of what was done, corrected and withdrawn."""
