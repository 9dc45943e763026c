"""Small simulated devices that ship with the application; they know only its open formats."""
