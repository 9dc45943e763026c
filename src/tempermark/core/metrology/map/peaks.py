"""The highest of a surface that is known where lines cross, between the lines too."""

import numpy as np

# A surface that bends less than this over a step is flat, K.
FLAT_C = 1e-9


def highest(value: np.ndarray, lines: tuple[int, int]) -> np.ndarray:
    """The highest (s,) in K of each of surfaces (s, m) in K over as many lines across and along as
    `lines`, m their product, the places of one line across after the other.

    A band or a spot that peaks between two lines is up to an eighth higher than at either. Through
    the highest place and its neighbours goes a parabola each way, and its vertex is taken; at a rim
    nothing is beyond.
    """
    columns, rows = lines
    grid, each = value.reshape(-1, rows, columns), np.arange(len(value))
    row, column = np.divmod(value.argmax(axis=1), columns)
    top = grid[each, row, column]
    found = top.copy()
    for at, last, step in ((row, rows - 1, (1, 0)), (column, columns - 1, (0, 1))):
        inside = (at > 0) & (at < last)
        here, y, x = each[inside], row[inside], column[inside]
        before = grid[here, y - step[0], x - step[1]]
        after = grid[here, y + step[0], x + step[1]]
        bend = 2 * top[inside] - before - after
        found[inside] += np.where(
            bend > FLAT_C, (after - before) ** 2 / np.maximum(8 * bend, FLAT_C), 0.0
        )
    return np.asarray(found)
