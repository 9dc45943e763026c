"""The job's rules: no Django, no database, no clock, no global random numbers."""
