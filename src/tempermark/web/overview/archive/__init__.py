"""The whole room as one archive of open formats, and in again."""
