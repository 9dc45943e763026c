"""Days of the work: none before the press, and sums that end where the calendar does."""

from datetime import date, timedelta

# Nothing here was measured before; a clock that was never set tells 1970 or 1980.
EARLIEST_YEAR = 2000


def later(day: date, days: int) -> date:
    """`day` and so many days after (or before); the calendar's last or first day where there is
    none.
    """
    try:
        return day + timedelta(days=days)
    except OverflowError:
        return date.max if days > 0 else date.min
