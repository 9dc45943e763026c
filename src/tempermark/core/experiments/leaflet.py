"""A leaflet's printed range against what a shop has: where they overlap, by how much they miss, and
the first setting to try.

Source: handbook 1 §0 and §5: leaflets disagree; two materials run together where windows overlap.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from tempermark.core.recipes.windows import SettingWindow, Shared, shared


@dataclass(frozen=True)
class LeafletOverlap:
    """A window of the shop's, what it shares with the leaflet, and how much of the leaflet's range
    that is, a share 0–1.
    """

    window: SettingWindow
    common: Shared
    share: float


@dataclass(frozen=True)
class FirstTry:
    """True °C and dwell in s to begin with, and of how many windows they are the common middle, a
    number: 0 where the leaflet alone says so.
    """

    true_c: float
    time_s: float
    windows: int


def overlaps(leaflet: SettingWindow, windows: Sequence[SettingWindow]) -> list[LeafletOverlap]:
    """Every window (true °C, s) against a leaflet's: most in common first, then the least gap."""
    found = [
        LeafletOverlap(w, c, _share(leaflet, c)) for w in windows for c in [shared([leaflet, w])]
    ]
    return sorted(found, key=lambda o: (-o.share, o.common.temperature_gap_c + o.common.time_gap_s))


def _share(leaflet: SettingWindow, common: Shared) -> float:
    if common.temperature_c is None or common.time_s is None:
        return 0.0
    parts = []
    for whole, part in (
        (leaflet.temperature_c, common.temperature_c),
        (leaflet.time_s, common.time_s),
    ):
        wide = whole[1] - whole[0]
        parts.append((part[1] - part[0]) / wide if wide > 0 else 1.0)
    return max(parts[0] * parts[1], 1e-6)


def first_try(leaflet: SettingWindow, windows: Sequence[SettingWindow]) -> FirstTry:
    """The middle of what the leaflet (true °C, s) shares with as many windows as it can, the
    likeliest taken in turn; the middle of its own range where it shares nothing.
    """
    taken = [leaflet]
    for one in overlaps(leaflet, windows):
        if one.share > 0 and shared([*taken, one.window]).setting is not None:
            taken.append(one.window)
    setting = shared(taken).setting
    if setting is None:
        setting = sum(leaflet.temperature_c) / 2, sum(leaflet.time_s) / 2
    return FirstTry(*setting, len(taken) - 1)
