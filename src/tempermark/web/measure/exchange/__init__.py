"""Surveys in and out as open files."""
