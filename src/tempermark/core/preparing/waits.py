"""A wait that somebody may want to be called for."""

from dataclasses import dataclass

# The eye of a new material: the press is opened, or looked under, so often, s (handbook 1 §5).
LOOK_EVERY_S = 60.0


@dataclass(frozen=True)
class Wait:
    """What a clock is started for: its name and s; one that `repeats` rings again and again.

    `high_s` where the wait is only known from … to: the clock runs to the longer.
    """

    name: str
    seconds: float
    repeats: bool = False
    low_s: float | None = None
