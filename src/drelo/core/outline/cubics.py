"""Cubic Béziers: their basis, and the least-squares fit of one to points."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled

Array = NDArray[np.float64]

# Handles shorter or longer than these shares of the chord are set back to a third of it.
LEAST_HANDLE, MOST_HANDLE = 0.02, 1.5
# One Newton step moves a parameter by this much at most.
MOST_STEP = 0.2


def basis(u: Array) -> Array:
    """Bernstein basis of degree three, shape (*u.shape, 4)."""
    v = 1 - u
    return np.stack([v * v * v, 3 * u * v * v, 3 * u * u * v, u * u * u], axis=-1)


@compiled
def fit(start: Array, leaving: Array, end: Array, arriving: Array, data: Array, u: Array, rounds: int) -> Array:
    """Handle lengths that bring one cubic closest to points, its ends and directions kept.

    start, end: points, px. leaving, arriving: unit directions of travel. data: shape (k, 2), px. u: shape (k,), first
    guess of the parameters; it is improved in place. Gives two handle lengths, the largest and the root mean square
    distance, px.
    Source: P. Schneider, "An algorithm for automatically fitting digitized curves", Graphics Gems, 1990, with Newton
    steps for the parameters between solutions.
    """
    ax, ay, bx, by = start[0], start[1], end[0], end[1]
    ox, oy, ix, iy = leaving[0], leaving[1], arriving[0], arriving[1]
    chord = max(np.hypot(bx - ax, by - ay), 1e-9)
    dot = ox * ix + oy * iy
    one = two = chord / 3
    worst = total = 0.0
    for _ in range(rounds):
        aa = bb = ab = ra = rb = 0.0
        for i in range(len(u)):
            t = u[i]
            v = 1 - t
            near, far = 3 * t * v * v, 3 * t * t * v
            first, last = v * v * v + near, far + t * t * t
            x, y = data[i, 0] - first * ax - last * bx, data[i, 1] - first * ay - last * by
            aa += near * near
            bb += far * far
            ab -= dot * near * far
            ra += near * (x * ox + y * oy)
            rb -= far * (x * ix + y * iy)
        determinant = aa * bb - ab * ab
        one = two = chord / 3
        if abs(determinant) > 1e-12:
            h0, h1 = (ra * bb - rb * ab) / determinant, (rb * aa - ra * ab) / determinant
            if min(h0, h1) > LEAST_HANDLE * chord and max(h0, h1) < MOST_HANDLE * chord:
                one, two = h0, h1
        # In powers of the parameter.
        x1, y1 = 3 * one * ox, 3 * one * oy
        x2, y2 = 3 * (bx - two * ix - ax - 2 * one * ox), 3 * (by - two * iy - ay - 2 * one * oy)
        x3, y3 = bx - ax - x1 - x2, by - ay - y1 - y2
        worst = total = 0.0
        for i in range(len(u)):
            t = u[i]
            qx, qy = ((x3 * t + x2) * t + x1) * t + ax - data[i, 0], ((y3 * t + y2) * t + y1) * t + ay - data[i, 1]
            fx, fy = (3 * x3 * t + 2 * x2) * t + x1, (3 * y3 * t + 2 * y2) * t + y1
            below = fx * fx + fy * fy + qx * (6 * x3 * t + 2 * x2) + qy * (6 * y3 * t + 2 * y2)
            if abs(below) > 1e-12:
                t = min(max(t - min(max((qx * fx + qy * fy) / below, -MOST_STEP), MOST_STEP), 0.0), 1.0)
                u[i] = t
                qx, qy = ((x3 * t + x2) * t + x1) * t + ax - data[i, 0], ((y3 * t + y2) * t + y1) * t + ay - data[i, 1]
            off = qx * qx + qy * qy
            worst = max(worst, off)
            total += off
    return np.array([one, two, np.sqrt(worst), np.sqrt(total / len(u))])
