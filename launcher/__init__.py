"""Installs, starts and stops Tempermark; standard library only, for any Python from 3.11."""
