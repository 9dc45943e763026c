"""The floor page, a press's page, the strip of presses, files and the calendar of due checks."""
