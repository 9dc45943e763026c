"""What an uncertainty is made of, as shares of a bar."""

from dataclasses import dataclass

import numpy as np

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.reading.reading import COMMON
from tempermark.web.measure.surveys.mapping import Measured

WIDTH = 400.0
# Too narrow for its name.
LEAST_NAMED = 62.0
LABELS = {
    "instrument": "instrument",
    "emissivity": "emissivity",
    "comparison": "comparison",
    "repeatability": "repeatability",
    "extrapolation": "back to opening",
}


@dataclass(frozen=True)
class BudgetPart:
    """One contribution: its standard uncertainty, and where its share of the variance lies."""

    name: str
    label: str
    standard_c: float
    x: float
    width: float
    shared: bool

    @property
    def named(self) -> bool:
        """Whether its name fits into it."""
        return self.width >= LEAST_NAMED

    @property
    def middle(self) -> float:
        """Where its name stands."""
        return round(self.x + self.width / 2, 1)


@dataclass(frozen=True)
class Bar:
    """A budget: `expanded_c` (k = 2), and its parts, those shared by all readings leading."""

    title: str
    expanded_c: float
    parts: tuple[BudgetPart, ...]

    @property
    def shares(self) -> str:
        """Its parts as shares of the variance, for those who cannot see it."""
        return ", ".join(f"{p.label} {p.width / WIDTH:.0%}" for p in self.parts)


def bar(title: str, components: dict[str, float]) -> Bar:
    """The bar of standard uncertainties (K) by name; widths are shares of the variance."""
    total = sum(u * u for u in components.values())
    parts, at = [], 0.0
    for name in sorted(components, key=lambda n: (n not in COMMON, list(LABELS).index(n))):
        width = round(WIDTH * components[name] ** 2 / total, 1) if total else 0.0
        if width > 0:
            parts.append(
                BudgetPart(
                    name, LABELS[name], components[name], round(at, 1), width, name in COMMON
                )
            )
            at += width
    return Bar(title, COVERAGE_FACTOR * float(np.sqrt(total)), tuple(parts))


def bars(computed: Measured) -> list[Bar]:
    """Budgets of a typical reading and of the mean, from which the setting follows.

    What readings share is the same in both; the rest averages out.
    """
    if not computed.read:
        return []
    names = {name for v in computed.read for name in v.true.components}
    typical = {
        name: float(
            np.sqrt(np.mean([v.true.components.get(name, 0.0) ** 2 for v in computed.read]))
        )
        for name in names
    }
    count = len(computed.read)
    if any(v.bounds_c for v in computed.read):
        count = 1
    mean = {n: u if n in COMMON else u / count**0.5 for n, u in typical.items()}
    many = f"mean of {len(computed.read)}, and so the setting"
    return [bar("one reading", typical), bar(many, mean)]
