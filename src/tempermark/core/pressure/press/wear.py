"""How long a pad or cover lasts: closings, age and hardness against what it stands.

Equation: life by closings, age and hardness, whichever ends first.
Range: pads and covers of silicone, felt and PTFE in daily work.
Source: starting values of handbook 1 §3.
"""

from dataclasses import dataclass
from datetime import date

from tempermark.core.days import later

# What they stand where the shop noted nothing: closings and days. Starting values.
USUAL_LIFE = {
    "silicone": (20_000, 730),
    "felt": (15_000, 730),
    "ptfe": (8_000, 365),
    "other": (8_000, 365),
}
# A sponge this much harder than when new has lost its cells (points of Shore 00, ASTM D2240).
HARDER_BY = 15.0
# Days over which the pace of closings is taken.
PACE_DAYS = 60


@dataclass(frozen=True)
class Life:
    """A pad's or cover's life: closings so far, its share used, and when it is due."""

    closings: int
    life_closings: int
    used: float
    due_on: date | None
    by: str

    def is_due(self, today: date) -> bool:
        """Whether it should be replaced now."""
        return self.used >= 1 or (self.due_on is not None and self.due_on <= today)


def life(
    since: date | None,
    closings: int,
    recent_closings: int,
    today: date,
    life_closings: int,
    life_days: int,
    hardened: float | None = None,
) -> Life:
    """Which comes first: closings at the pace of late, age, or hardness.

    `recent_closings` are those of the last 60 days (or since it was fitted, if shorter); `hardened`
    points of Shore 00 gained since new. Without a date only closings count.
    """
    shares = {"closings": closings / life_closings}
    due = {}
    if since is not None:
        age = max((today - since).days, 0)
        shares["age"] = age / life_days
        due["age"] = later(since, life_days)
        pace = recent_closings / max(min(age, PACE_DAYS), 1)
        if pace > 0 and closings < life_closings:
            days = (life_closings - closings) / pace
            if days < 36_500:
                due["closings"] = later(today, int(days))
    if closings >= life_closings:
        due["closings"] = today
    if hardened is not None:
        shares["hardness"] = max(hardened, 0.0) / HARDER_BY
        if hardened >= HARDER_BY:
            due["hardness"] = today
    by = min(due, key=due.__getitem__) if due else max(shares, key=shares.__getitem__)
    return Life(closings, life_closings, max(shares.values()), due.get(by), by)
