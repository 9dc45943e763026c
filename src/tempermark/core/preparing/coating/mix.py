"""Mixing a coating: volumes for a bottle, and the day it is to be used by.

Equation: volume = bottle · parts ÷ sum of the parts.
Range: two parts that mix without shrinking.
Source: handbook 1 §4, “mix”.
"""

from datetime import date

from dateutil.relativedelta import relativedelta


def volumes_ml(
    concentrate_parts: float, water_parts: float, bottle_ml: float
) -> tuple[float, float]:
    """Concentrate and water in ml that fill a bottle. Raises ValueError for a ratio of 0 to 0."""
    parts = concentrate_parts + water_parts
    if not parts > 0:
        raise ValueError("a mix needs more than 0 parts")
    return bottle_ml * concentrate_parts / parts, bottle_ml * water_parts / parts


def use_by(mixed_on: date, shelf_months: int) -> date:
    """The day so many months later; the last day of a month that lacks it. Raises OverflowError
    beyond the calendar.
    """
    try:
        day: date = mixed_on + relativedelta(months=shelf_months)
    except ValueError as error:
        raise OverflowError("beyond the calendar") from error
    return day
