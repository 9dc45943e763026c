"""What one piece costs: blank, print, coat, sheets, power, minutes.

Equation: each quantity times its price; power is the heat that went into the stack and what the
platen loses meanwhile. Range: one piece to a closing; a shop's money is without a unit here.
"""

from dataclasses import dataclass

# A hot platen loses this to the room while it waits, W per m² of platen: some 10 W/m²K at 180 K
# above the room, its back insulated. A starting value.
IDLE_W_M2 = 1500.0
J_PER_KWH = 3.6e6
# Laying one on, taking one off, s (as formats/commands.md, “plan”, has it), and preparing one.
HANDLING_S, PREPARING_S = 40.0, 60.0


@dataclass(frozen=True)
class CostLine:
    """One part of a piece's cost: how much of what unit, and its price for each; None: no price
    was entered.
    """

    name: str
    amount: float
    unit: str
    price: float | None

    @property
    def cost(self) -> float | None:
        """What it costs in the shop's money; None without a price."""
        return None if self.price is None else self.amount * self.price


@dataclass(frozen=True)
class PieceCost:
    """All parts, and what the shop charges for a piece, if it is known."""

    lines: tuple[CostLine, ...]
    charge: float | None = None

    @property
    def total(self) -> float:
        """What one good piece costs in the shop's money, as far as prices are known."""
        return sum(line.cost or 0.0 for line in self.lines)

    @property
    def spoiled(self) -> float:
        """What a spoiled piece costs in the shop's money: all that was spent on it."""
        return self.total

    @property
    def keeps(self) -> float | None:
        """What the shop keeps of a piece, in its money; None where nothing is charged."""
        return None if self.charge is None else self.charge - self.total

    @property
    def share(self) -> float | None:
        """What it keeps as a share of the charge."""
        if self.charge is None or not self.charge or self.keeps is None:
            return None
        return self.keeps / self.charge

    @property
    def missing(self) -> tuple[str, ...]:
        """Parts without a price."""
        return tuple(line.name for line in self.lines if line.price is None)

    def with_spoiled(self, share: float) -> float:
        """What a good piece costs where a share of all, 0 to below 1, is spoiled."""
        return self.total / (1 - share)


def energy_kwh(
    into_stack_j_m2: float, piece_m2: float, platen_m2: float, closed_s: float, open_s: float
) -> float:
    """Power of one piece in kWh: heat in J/m² into the piece's area, in m², and what a platen in m²
    loses over the dwell and the handling, in s.
    """
    lost = IDLE_W_M2 * platen_m2 * (closed_s + open_s)
    return (into_stack_j_m2 * piece_m2 + lost) / J_PER_KWH
