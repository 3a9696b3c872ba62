"""How much of every pixel closed polylines cover, exactly; and fields read between pixel centres."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled

Array = NDArray[np.float64]

# So many pixels of a row at once are passed by where no edge crosses them.
BLOCK = 32
# px that an edge leans at most over a row of pixels, to count as upright.
UPRIGHT = 1e-12


def coverage(starts: Array, ends: Array, width: int, height: int) -> NDArray[np.float32]:
    """Covered share of each pixel, shape (height, width), for directed edges of closed lines.

    starts, ends: shape (n, 2), px; ink on the left as seen on the screen (y down). Where lines overlap, shares add up.
    """
    return mixed(starts, ends, np.ones((len(starts), 1)), width, height)[..., 0]


def mixed(
    starts: Array, ends: Array, steps: Array, width: int, height: int, into: NDArray[np.float32] | None = None
) -> NDArray[np.float32]:
    """Pixels of flat areas, mixed by exact coverage at their edges, shape (height, width, channels).

    steps: shape (n, channels): the colour to the left of every edge less that to its right.
    into: an array of that shape that is no longer needed: writing over it is quicker than asking for memory.
    Each edge adds, in the row of pixels it runs through, its step times the signed area between it and the right
    border; a running sum along the row gives the colours.
    Source: the signed-area accumulation of FreeType's smooth rasteriser.
    """
    if into is None:
        into = np.zeros((height, width, steps.shape[1]), np.float32)
    else:
        into.fill(0)
    crossed = np.zeros((height, -(-width // BLOCK)), np.bool_)
    _accumulate(into, crossed, starts, ends, steps)
    _run_along(into, crossed)
    return into


@compiled
def _accumulate(
    grid: NDArray[np.float32], crossed: NDArray[np.bool_], starts: Array, ends: Array, steps: Array
) -> None:
    height, width, channels = grid.shape
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
            # An upright edge belongs to one column, also where rounding puts its ends on either side of a border.
            upright = span < UPRIGHT
            first = int(np.floor(left))
            last = first if upright else int(np.floor(right))
            for column in range(first, last + 1):
                a, b = max(left, float(column)), min(right, column + 1.0)
                share = drop if upright else drop * (b - a) / span
                # Of the pixel itself only what lies to the right of the edge is covered.
                part = (a + b) / 2 - column
                if column < width:
                    crossed[row, max(column, 0) // BLOCK] = True
                    if column + 1 < width:
                        crossed[row, max(column + 1, 0) // BLOCK] = True
                for c in range(channels):
                    if column < 0:
                        grid[row, 0, c] += share * steps[i, c]
                    elif column < width:
                        grid[row, column, c] += share * (1 - part) * steps[i, c]
                        if column + 1 < width:
                            grid[row, column + 1, c] += share * part * steps[i, c]


@compiled
def _run_along(grid: NDArray[np.float32], crossed: NDArray[np.bool_]) -> None:
    height, width, channels = grid.shape
    for row in range(height):
        for c in range(channels):
            total = 0.0
            for block in range(crossed.shape[1]):
                begin, end = block * BLOCK, min((block + 1) * BLOCK, width)
                if crossed[row, block]:
                    for column in range(begin, end):
                        total += grid[row, column, c]
                        grid[row, column, c] = total
                elif total != 0:
                    grid[row, begin:end, c] = total


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


@compiled
def between_mixed(field: NDArray[np.float32], points: Array, one: Array, zero: Array) -> Array:
    """How far a field's colour at points lies on the way from `zero` to `one`, shape (n,), read bilinearly.

    field: shape (height, width, channels). one, zero: shape (n, channels). Beyond the picture its border goes on.
    """
    height, width, channels = field.shape
    values = np.zeros(len(points))
    for i in range(len(points)):
        x, y = points[i, 0] - 0.5, points[i, 1] - 0.5
        left, top = np.floor(x), np.floor(y)
        tx, ty = x - left, y - top
        length = 0.0
        for c in range(channels):
            length += (one[i, c] - zero[i, c]) ** 2
        for c in range(channels):
            at = 0.0
            for down in range(2):
                for right in range(2):
                    r, k = min(max(int(top) + down, 0), height - 1), min(max(int(left) + right, 0), width - 1)
                    at += field[r, k, c] * (ty if down else 1 - ty) * (tx if right else 1 - tx)
            values[i] += (at - zero[i, c]) * (one[i, c] - zero[i, c])
        values[i] /= max(length, 1e-9)
    return values
