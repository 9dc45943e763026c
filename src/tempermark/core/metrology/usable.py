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

    `inside` (rows, columns). Histogram of run lengths per row with a stack: linear in
    cells.
    """
    best, best_block = 0.0, None
    run = np.zeros(grid.columns, int)
    for row in range(grid.rows):
        run = np.where(inside[row], run + 1, 0)
        for left, height, width in _blocks(run.tolist()):
            if width * height > best:
                best = width * height
                best_block = (left, row - height + 1, width, height)
    return grid.rectangle(*best_block) if best_block else None


def _blocks(heights: list[int]):
    """Maximal blocks (left, height, width) under a histogram."""
    stack: list[tuple[int, int]] = []
    for index, height in enumerate([*heights, 0]):
        left = index
        while stack and stack[-1][1] >= height:
            left, tall = stack.pop()
            yield left, tall, index - left
        stack.append((left, height))


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
