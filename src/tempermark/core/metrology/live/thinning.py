"""Thinning a course for the eye without losing what was short: lowest, mean and highest."""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Thinned:
    """Buckets (m,) by their middle times, and low, mean, high (m, channels); NaN where empty."""

    time_s: np.ndarray
    low_c: np.ndarray
    mean_c: np.ndarray
    high_c: np.ndarray


def thin(
    time_s: np.ndarray,
    low_c: np.ndarray,
    mean_c: np.ndarray,
    high_c: np.ndarray,
    bucket_s: float,
) -> Thinned:
    """Gather rows (n, channels) at ascending times (n,) into buckets of `bucket_s` seconds.

    Extremes stay extremes; the mean of means is exact where rows stand for equal counts.
    """
    if not len(time_s):
        return Thinned(time_s, low_c, mean_c, high_c)
    bucket = np.floor(time_s / bucket_s).astype(np.int64)
    starts = np.flatnonzero(np.concatenate([[True], np.diff(bucket) > 0]))
    there = np.isfinite(mean_c)
    count = np.add.reduceat(there.astype(float), starts)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.add.reduceat(np.where(there, mean_c, 0), starts) / count
    low = np.minimum.reduceat(np.where(np.isfinite(low_c), low_c, np.inf), starts)
    high = np.maximum.reduceat(np.where(np.isfinite(high_c), high_c, -np.inf), starts)
    return Thinned(
        (bucket[starts] + 0.5) * bucket_s,
        np.where(count > 0, low, np.nan),
        mean,
        np.where(count > 0, high, np.nan),
    )
