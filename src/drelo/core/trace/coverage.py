"""How much of every pixel closed polylines cover, exactly; and fields read between pixel centres."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled

Array = NDArray[np.float64]


def coverage(starts: Array, ends: Array, width: int, height: int) -> NDArray[np.float32]:
    """Covered share of each pixel, shape (height, width), for directed edges of closed lines.

    starts, ends: shape (n, 2), px; ink on the left as seen on the screen (y down). Where lines overlap, shares add up.
    Each edge adds, in the row of pixels it runs through, the signed area between it and the right border; a running
    sum along the row gives the coverage. Source: the signed-area accumulation of FreeType's smooth rasteriser.
    """
    grid = np.zeros((height, width), np.float32)
    _accumulate(grid, starts, ends)
    _run_along(grid)
    return grid


@compiled
def _accumulate(grid: NDArray[np.float32], starts: Array, ends: Array) -> None:
    height, width = grid.shape
    for i in range(len(starts)):
        xa, ya, xb, yb = starts[i, 0], starts[i, 1], ends[i, 0], ends[i, 1]
        if ya == yb:
            continue
        sign = 1.0
        if ya > yb:
            xa, ya, xb, yb, sign = xb, yb, xa, ya, -1.0
        slope = (xb - xa) / (yb - ya)
        for row in range(max(0, int(np.floor(ya))), min(height, int(np.ceil(yb)))):
            y0, y1 = max(ya, float(row)), min(yb, row + 1.0)
            if y1 <= y0:
                continue
            x0, x1 = xa + (y0 - ya) * slope, xa + (y1 - ya) * slope
            drop = sign * (y1 - y0)
            left, right = min(x0, x1), max(x0, x1)
            span = right - left
            first, last = int(np.floor(left)), int(np.floor(right))
            for column in range(first, last + 1):
                a, b = max(left, float(column)), min(right, column + 1.0)
                share = drop if span < 1e-12 else drop * (b - a) / span
                # Of the pixel itself only what lies to the right of the edge is covered.
                part = (a + b) / 2 - column
                if column < 0:
                    grid[row, 0] += share
                elif column < width:
                    grid[row, column] += share * (1 - part)
                    if column + 1 < width:
                        grid[row, column + 1] += share * part


@compiled
def _run_along(grid: NDArray[np.float32]) -> None:
    for row in range(grid.shape[0]):
        total = 0.0
        for column in range(grid.shape[1]):
            total += grid[row, column]
            grid[row, column] = total


@compiled
def between(field: NDArray[np.float32], points: Array) -> Array:
    """Bilinear values of a field at points (n, 2) in px, shape (n,); beyond the picture the field is 0."""
    height, width = field.shape
    values = np.zeros(len(points))
    for i in range(len(points)):
        x, y = points[i, 0] - 0.5, points[i, 1] - 0.5
        left, top = np.floor(x), np.floor(y)
        tx, ty = x - left, y - top
        for down in range(2):
            for right in range(2):
                r, c = int(top) + down, int(left) + right
                if 0 <= r < height and 0 <= c < width:
                    values[i] += field[r, c] * (ty if down else 1 - ty) * (tx if right else 1 - tx)
    return values
