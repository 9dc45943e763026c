"""Quantities as text: the person's unit, real minus signs, no false digits."""

from datetime import date, datetime

from django.utils import timezone

from tempermark.core.units import from_si
from tempermark.web.kit.units import Units

# Between a figure and its unit, so that no line breaks there.
NO_BREAK = "\u00a0"
# A ruler in inches is read to a sixteenth.
RULER = 16
# Digits behind the point that a figure gains (or loses) when it is shown in another unit than mm,
# kPa, ml or g: an inch has 25 mm, a psi 7 kPa.
MORE_DIGITS = {"mm": 0, "in": 2, "kpa": 0, "psi": 1, "bar": 2, "ml": 0, "floz": 1, "g": 0, "oz": 2}
# A pressure in psi from here on is no more exact for a digit behind the point.
WHOLE_PSI_FROM_KPA = 200.0


def minus(text: str) -> str:
    """A real minus sign for the hyphen."""
    return text.replace("-", "−")


def temperature_number(value_c: float, units: Units, digits: int = 0) -> str:
    """Of a temperature the number alone, for an axis that has the unit beside it."""
    return _plain(from_si(value_c, "temperature", units.temperature), digits)


def temperature_text(value_c: float | None, units: Units, digits: int = 0) -> str:
    """`195 °C` or `383 °F`; an em dash where nothing is known."""
    if value_c is None:
        return "—"
    return f"{temperature_number(value_c, units, digits)}{NO_BREAK}{units.symbol('temperature')}"


def difference_text(value_k: float | None, units: Units, digits: int = 0, sign: bool = True) -> str:
    """A difference: `+6 K` or `+11 °F`."""
    if value_k is None:
        return "—"
    value = from_si(value_k, "difference", units.temperature)
    shown = f"{value:+.{digits}f}" if sign else f"{abs(value):.{digits}f}"
    if float(shown) == 0:
        shown = f"{0:.{digits}f}"
    return f"{minus(shown)}{NO_BREAK}{units.symbol('difference')}"


def length_number(value_mm: float, units: Units, digits: int = 0, sign: bool = False) -> str:
    """Of a length the number alone: `300` or `11 13/16`, `0.35` or `0.014`. With no digits it is
    one that a ruler reads, in inches to a sixteenth.
    """
    if units.length == "in" and digits == 0:
        return _sixteenths(value_mm, sign)
    return _signed(value_mm, "length", units, digits, sign)


def length_text(value_mm: float | None, units: Units, digits: int = 0, sign: bool = False) -> str:
    """`300 mm` or `11 13/16 in`."""
    if value_mm is None:
        return "—"
    return f"{length_number(value_mm, units, digits, sign)}{NO_BREAK}{units.symbol('length')}"


def size_text(sides_mm: tuple[float, ...], units: Units, digits: int = 0) -> str:
    """`380 × 500 mm` or `14 15/16 × 19 11/16 in`."""
    numbers = (length_number(side, units, digits) for side in sides_mm)
    return f"{f'{NO_BREAK}×{NO_BREAK}'.join(numbers)}{NO_BREAK}{units.symbol('length')}"


def place_text(x_mm: float, y_mm: float, units: Units) -> str:
    """`300, 250 mm` or `11 13/16, 9 13/16 in`: from the left and from the front."""
    numbers = ", ".join(length_number(side, units) for side in (x_mm, y_mm))
    return f"{numbers}{NO_BREAK}{units.symbol('length')}"


def pressure_number(value_kpa: float, units: Units, digits: int = 0) -> str:
    """Of a pressure the number alone: `40` or `5.8`."""
    if units.pressure == "psi" and value_kpa >= WHOLE_PSI_FROM_KPA:
        return _plain(from_si(value_kpa, "pressure", "psi"), digits)
    return _signed(value_kpa, "pressure", units, digits, sign=False)


def pressure_text(value_kpa: float | None, units: Units, digits: int = 0) -> str:
    """`40 kPa`, `0.40 bar` or `5.8 psi`."""
    if value_kpa is None:
        return "—"
    return f"{pressure_number(value_kpa, units, digits)}{NO_BREAK}{units.symbol('pressure')}"


def pressures_text(low_kpa: float, high_kpa: float, units: Units, digits: int = 0) -> str:
    """A span: `30–60 kPa`."""
    low = pressure_number(low_kpa, units, digits)
    return f"{low}–{pressure_text(high_kpa, units, digits)}"


def volume_text(value_ml: float, units: Units, digits: int = 0) -> str:
    """`250 ml` or `8.5 fl oz`."""
    number = _signed(value_ml, "volume", units, digits, sign=False)
    return f"{number}{NO_BREAK}{units.symbol('volume')}"


def mass_text(value_g: float, units: Units, digits: int = 0) -> str:
    """`12 g` or `0.42 oz`."""
    number = _signed(value_g, "mass", units, digits, sign=False)
    return f"{number}{NO_BREAK}{units.symbol('mass')}"


def weight_text(value_kg: float, units: Units, digits: int = 0) -> str:
    """`12 kg` or `26 lb`."""
    number = _plain(from_si(value_kg, "weight", units.of("weight")), digits)
    return f"{number}{NO_BREAK}{units.symbol('weight')}"


def typed_number(value: float, quantity: str, units: Units) -> str:
    """A figure as its person would type it: without unit, with no digit that says nothing. Inches
    as a fraction where they are one.
    """
    shown = from_si(value, quantity, units.of(quantity))
    if quantity == "temperature":
        return _trimmed(shown, 1)
    if quantity == "length" and units.length == "in":
        in_parts = shown * RULER
        if abs(in_parts - round(in_parts)) < 1e-6:
            return _sixteenths(value, sign=False).replace("−", "-")
        return _trimmed(shown, 3)
    return f"{shown:.4g}"


def share_text(share: float) -> str:
    """A share as %, never 0 or 100 where it is neither."""
    shown = 100 * share
    if 0 < share < 1:
        shown = min(max(shown, 1.0), 99.0)
    return f"{shown:.0f}{NO_BREAK}%"


def chance_text(chance: float) -> str:
    """A chance as %, never 0 or 100: nothing that is drawn by lot is certain."""
    return f"{min(99, max(1, round(chance * 100)))}{NO_BREAK}%"


def _signed(value_si: float, quantity: str, units: Units, digits: int, sign: bool) -> str:
    unit = units.of(quantity)
    value = from_si(value_si, quantity, unit)
    text = _plain(value, digits + MORE_DIGITS[unit])
    return f"+{text}" if sign and value > 0 and float(text.replace("−", "-")) else text


def _plain(value: float, digits: int) -> str:
    """Without the minus of a zero."""
    shown = f"{value:.{digits}f}"
    return minus(shown if float(shown) else shown.removeprefix("-"))


def _trimmed(value: float, digits: int) -> str:
    shown = f"{value:.{digits}f}"
    return shown.rstrip("0").rstrip(".") if "." in shown else shown


def _sixteenths(value_mm: float, sign: bool) -> str:
    """A length in inches to the nearest sixteenth: `11 13/16`, `3/8`, `0`."""
    parts = round(from_si(abs(value_mm), "length", "in") * RULER)
    whole, rest = divmod(parts, RULER)
    bottom = RULER
    while rest and rest % 2 == 0:
        rest, bottom = rest // 2, bottom // 2
    before = ("−" if value_mm < 0 else "+" if sign else "") if parts else ""
    fraction = f"{rest}/{bottom}" if rest else ""
    return before + (f"{whole} {fraction}".strip() if whole or not rest else fraction)


def decimals_of(value: float) -> int:
    """Digits behind the point that a plain number needs, two at most."""
    for digits in (0, 1):
        if abs(value - round(value, digits)) < 1e-6 * max(1.0, abs(value)):
            return digits
    return 2


def day_text(when: date) -> str:
    """`3 May`, of another year `3 May 2025`; a moment's day is that of the room."""
    day = timezone.localtime(when).date() if isinstance(when, datetime) else when
    is_this_year = day.year == timezone.localdate().year
    return f"{day.day} {day:%B}" if is_this_year else f"{day.day} {day:%B %Y}"
