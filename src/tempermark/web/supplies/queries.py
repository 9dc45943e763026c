"""Reading prices."""

from statistics import median

from tempermark.web.recipes.models import Blank
from tempermark.web.supplies.models import BLANK, Currency, Price


def currency() -> str:
    """How the shop writes its money."""
    row = Currency.objects.first()
    return row.sign if row else "€"


def prices() -> dict[str, float]:
    """Prices by code, without those of blanks."""
    rows = Price.objects.filter(blank=None).values_list("code", "amount")
    return {code: float(amount) for code, amount in rows}


def blank_price(blank: Blank) -> float | None:
    """What one blank costs."""
    row = Price.objects.filter(code=BLANK, blank=blank).first()
    return float(row.amount) if row else None


def usual_blank_price() -> float | None:
    """What a blank of this shop costs: the middle of all prices; None without any."""
    amounts = [float(a) for a in Price.objects.exclude(blank=None).values_list("amount", flat=True)]
    return median(amounts) if amounts else None


def money_text(amount: float, sign: str) -> str:
    """An amount with the shop's sign, to the hundredth: `3.40 €`."""
    minus = "−" if amount <= -0.005 else ""
    return f"{minus}{abs(amount):.2f}\u00a0{sign}"
