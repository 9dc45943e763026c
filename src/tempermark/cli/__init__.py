"""The JSON commands: thin, and importing only what the command needs."""
