"""Where on the platen prints may go: areas and the largest rectangle in tolerance."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.ndimage import label


@dataclass(frozen=True)
class Rectangle:
    """Axis-parallel, front left corner and size in mm on the platen."""

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


@dataclass(frozen=True)
class Grid:
    """Cells over a platen: `columns` × `rows`, arrays shaped (rows, columns)."""

    width_mm: float
    height_mm: float
    columns: int = 60
    rows: int = 75

    @property
    def x_mm(self) -> np.ndarray:
        """Centres of the columns, (columns,) in mm."""
        return (np.arange(self.columns) + 0.5) * self.width_mm / self.columns

    @property
    def y_mm(self) -> np.ndarray:
        """Centres of the rows, front first, (rows,) in mm."""
        return (np.arange(self.rows) + 0.5) * self.height_mm / self.rows

    @property
    def places_mm(self) -> np.ndarray:
        """Centres of all cells, (rows · columns, 2) in mm."""
        x, y = np.meshgrid(self.x_mm, self.y_mm)
        return np.column_stack([x.ravel(), y.ravel()])

    def shaped(self, values: np.ndarray) -> np.ndarray:
        """Values over the cells as (rows, columns), in their own unit (K, kPa, shares)."""
        return values.reshape(self.rows, self.columns)

    @property
    def nodes_mm(self) -> np.ndarray:
        """A coarser lattice with the rims on it (nodes, 2) in mm, row by row from the front."""
        x = np.linspace(0, self.width_mm, _node_count(self.columns))
        y = np.linspace(0, self.height_mm, _node_count(self.rows))
        return np.column_stack([a.ravel() for a in np.meshgrid(x, y)])

    def from_nodes(self, values: np.ndarray) -> np.ndarray:
        """Values (nodes,) of a smooth field, in K or any unit, carried to the cells (rows,
        columns), cubically."""
        columns, rows = _node_count(self.columns), _node_count(self.rows)
        table = values.reshape(rows, columns)
        return np.asarray(_cubic(rows, self.rows) @ table @ _cubic(columns, self.columns).T)

    def to_the_rims(self, values: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """x (columns + 2,), y (rows + 2,) and values over them, carried straight on from the
        outermost centres to the platen's rims.
        """
        x = np.concatenate([[0.0], self.x_mm, [self.width_mm]])
        y = np.concatenate([[0.0], self.y_mm, [self.height_mm]])
        for axis in (0, 1):
            first = 1.5 * values.take([0], axis) - 0.5 * values.take([1], axis)
            last = 1.5 * values.take([-1], axis) - 0.5 * values.take([-2], axis)
            values = np.concatenate([first, values, last], axis)
        return x, y, values

    def rectangle(self, column: int, row: int, columns: int, rows: int) -> Rectangle:
        """The rectangle covering a block of cells."""
        wide, high = self.width_mm / self.columns, self.height_mm / self.rows
        return Rectangle(column * wide, row * high, columns * wide, rows * high)


def _node_count(cells: int) -> int:
    return max(4, cells // 2 + 1)


@lru_cache(maxsize=16)
def _cubic(nodes: int, cells: int) -> np.ndarray:
    """Weights (cells, nodes) of the cubic through the four nodes around each cell's centre."""
    at = (np.arange(cells) + 0.5) / cells * (nodes - 1)
    first = np.clip(np.floor(at).astype(int) - 1, 0, nodes - 4)
    weights = np.zeros((cells, nodes))
    for i in range(4):
        others = [j for j in range(4) if j != i]
        lagrange = np.prod([(at - first - j) / (i - j) for j in others], axis=0)
        weights[np.arange(cells), first + i] = lagrange
    return weights


def largest_rectangle(inside: np.ndarray, grid: Grid) -> Rectangle | None:
    """Largest rectangle by area, in mm, of cells that are all true; None when none is.

    `inside` (rows, columns). The widest block of a height never grows with the height, so a
    stretch of heights whose ends are equally wide, or that could not beat the best, is passed
    over; of equal areas the least high is taken.
    """
    reach = _runs(inside.T).T
    widest: dict[int, tuple[int, int, int]] = {}

    def block(height: int) -> tuple[int, int, int]:
        """Width, row and column of the widest block of a height."""
        if height not in widest:
            run = _runs(reach >= height)
            row, right = divmod(int(run.argmax()), grid.columns)
            width = int(run[row, right])
            widest[height] = (width, row - height + 1, right - width + 1)
        return widest[height]

    best = 0
    stretches = [(1, int(reach.max(initial=0)))]
    while stretches:
        low, high = stretches.pop()
        if high < low:
            continue
        wide, narrow = block(low)[0], block(high)[0]
        best = max(best, low * wide, high * narrow)
        if high - low < 2 or wide == narrow or (high - 1) * wide <= best:
            continue
        middle = (low + high) // 2
        stretches += [(low, middle), (middle, high)]
    if not best:
        return None
    height, (width, row, column) = min((h, b) for h, b in widest.items() if h * b[0] == best)
    return grid.rectangle(column, row, width, height)


def _runs(cells: np.ndarray) -> np.ndarray:
    """For every cell the number of true cells in a row that end there, going right."""
    column = np.arange(cells.shape[1])
    last_false = np.maximum.accumulate(np.where(cells, -1, column), axis=1)
    return np.where(cells, column - last_false, 0)


def zones(inside: np.ndarray) -> list[np.ndarray]:
    """Connected zones (4-neighbours) of true cells, each as (k, 2) row and column numbers."""
    labelled, count = label(inside)
    return [np.argwhere(labelled == number) for number in range(1, count + 1)]
