"""The variables that our processes begin with."""

import os

from launcher import paths


def clean_environment(**more: str) -> dict[str, str]:
    """The environment for our Python: byte code may be written, nothing foreign on the path."""
    dropped = ("PYTHONDONTWRITEBYTECODE", "PYTHONHOME", "PYTHONPATH", "VIRTUAL_ENV")
    kept = {k: v for k, v in os.environ.items() if k not in dropped}
    return {**kept, "PYTHONPATH": str(paths.source()), **more}
