"""Which backups are kept: all of two days, then one a day, a week, a month."""

from collections.abc import Callable
from datetime import datetime, timedelta

from launcher.backups.bundle import Bundle

ALL_FOR = timedelta(days=2)
DAYS, WEEKS, MONTHS = 14, 8, 24
SPANS: tuple[tuple[int, Callable[[datetime], tuple[int, ...]]], ...] = (
    (DAYS, lambda at: (at.year, at.month, at.day)),
    (WEEKS, lambda at: tuple(at.isocalendar()[:2])),
    (MONTHS, lambda at: (at.year, at.month)),
)


def outdated(found: list[Bundle], now: datetime) -> list[Bundle]:
    """Backups that nobody needs any more: neither young, nor the last of one of the newest 14 days,
    8 weeks or 24 months that have any. The newest always stays.
    """
    newest_first = sorted(found, key=lambda bundle: bundle.at, reverse=True)
    kept = {b.path for b in newest_first[:1]}
    kept |= {b.path for b in newest_first if now - b.at <= ALL_FOR}
    for most, span in SPANS:
        last_of: dict[tuple[int, ...], Bundle] = {}
        for bundle in newest_first:
            last_of.setdefault(span(bundle.at), bundle)
        kept |= {bundle.path for bundle in list(last_of.values())[:most]}
    return [bundle for bundle in newest_first if bundle.path not in kept]
