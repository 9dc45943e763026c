"""What a piece costs, and when a sheet that is used again costs more than a new one."""
