"""Where on the platen prints may go: areas and the largest rectangle in tolerance."""

from dataclasses import dataclass

import numpy as np


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
        """Centres of the columns, (columns,)."""
        return (np.arange(self.columns) + 0.5) * self.width_mm / self.columns

    @property
    def y_mm(self) -> np.ndarray:
        """Centres of the rows, front first, (rows,)."""
        return (np.arange(self.rows) + 0.5) * self.height_mm / self.rows

    @property
    def places_mm(self) -> np.ndarray:
        """Centres of all cells, (rows · columns, 2)."""
        x, y = np.meshgrid(self.x_mm, self.y_mm)
        return np.column_stack([x.ravel(), y.ravel()])

    def shaped(self, values: np.ndarray) -> np.ndarray:
        """Values over the cells as (rows, columns)."""
        return values.reshape(self.rows, self.columns)

    def rectangle(self, column: int, row: int, columns: int, rows: int) -> Rectangle:
        """The rectangle covering a block of cells."""
        wide, high = self.width_mm / self.columns, self.height_mm / self.rows
        return Rectangle(column * wide, row * high, columns * wide, rows * high)


def largest_rectangle(inside: np.ndarray, grid: Grid) -> Rectangle | None:
    """Largest rectangle by area of cells that are all true; None when none is.

    `inside` (rows, columns). For every height the rows that hold throughout are kept and
    their longest run of columns is found, all starting rows at once.
    """
    best, best_block = 0, None
    throughout = inside
    for height in range(1, grid.rows + 1):
        if height > 1:
            throughout = throughout[:-1] & inside[height - 1 :]
        run = _runs(throughout)
        at = int(run.argmax())
        row, right = divmod(at, grid.columns)
        width = int(run[row, right])
        if width * grid.rows <= best:
            break
        if width * height > best:
            best, best_block = width * height, (right - width + 1, row, width, height)
    return grid.rectangle(*best_block) if best_block else None


def _runs(cells: np.ndarray) -> np.ndarray:
    """For every cell the number of true cells in a row that end there, going right."""
    column = np.arange(cells.shape[1])
    last_false = np.maximum.accumulate(np.where(cells, -1, column), axis=1)
    return np.where(cells, column - last_false, 0)


def zones(inside: np.ndarray) -> list[np.ndarray]:
    """Connected zones (4-neighbours) of true cells, each as (k, 2) row and column."""
    left = {tuple(cell) for cell in np.argwhere(inside)}
    found = []
    while left:
        edge = [left.pop()]
        zone = []
        while edge:
            row, column = edge.pop()
            zone.append((row, column))
            for near in (
                (row + 1, column),
                (row - 1, column),
                (row, column + 1),
                (row, column - 1),
            ):
                if near in left:
                    left.remove(near)
                    edge.append(near)
        found.append(np.array(zone))
    return found
