"""Backups of a room: made and verified, kept for a while, brought back; and the log archive."""
