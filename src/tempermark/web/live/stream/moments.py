"""Seconds since 1970 as moments."""

from datetime import UTC, datetime


def moment(time_s: float) -> datetime:
    """The moment, in UTC."""
    return datetime.fromtimestamp(float(time_s), UTC)
