"""Least-squares cubic Béziers, many at a time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

# Handles shorter or longer than these shares of the chord are set back to a third of it.
HANDLE_RANGE = (0.02, 1.5)


@dataclass(frozen=True, eq=False)
class Ends:
    """Ends of n cubics: points and unit directions of travel, each of shape (n, 2)."""

    start: Array
    start_direction: Array
    end: Array
    end_direction: Array


@dataclass(frozen=True, eq=False)
class Fit:
    """Fitted cubics.

    handles: shape (n, 2): lengths of the two handles, px.
    worst, mean: shape (n,): largest and root mean square distance to the data, px.
    """

    handles: Array
    worst: Array
    mean: Array


def basis(u: Array) -> Array:
    """Bernstein basis of degree three, shape (*u.shape, 4)."""
    v = 1 - u
    return np.stack([v * v * v, 3 * u * v * v, 3 * u * u * v, u * u * u], axis=-1)


def control_points(ends: Ends, handles: Array) -> Array:
    """Control points of cubics, shape (n, 4, 2)."""
    return np.stack(
        [
            ends.start,
            ends.start + handles[:, :1] * ends.start_direction,
            ends.end - handles[:, 1:] * ends.end_direction,
            ends.end,
        ],
        axis=1,
    )


def fit(ends: Ends, data: Array, u: Array, rounds: int = 2) -> Fit:
    """Handle lengths that bring each cubic closest to its data, ends and directions kept.

    data: shape (n, k, 2), px. u: shape (n, k), first guess of the parameters.
    Source: P. Schneider, "An algorithm for automatically fitting digitized curves", Graphics Gems, 1990, with
    Newton steps for the parameters between solutions.
    """
    start, end = _complex(ends.start)[:, None], _complex(ends.end)[:, None]
    out, into = _complex(ends.start_direction)[:, None], _complex(ends.end_direction)[:, None]
    target = _complex(data)
    chord = np.maximum(np.abs(end - start), 1e-9)
    dot = (out * into.conj()).real[:, 0]
    handles = np.repeat(chord / 3, 2, axis=1)
    for turn in range(rounds):
        v = 1 - u
        near, far = 3 * u * v * v, 3 * u * u * v
        left = target - (v * v * v + near) * start - (far + u * u * u) * end
        aa, bb = (near * near).sum(axis=1), (far * far).sum(axis=1)
        ab = -dot * (near * far).sum(axis=1)
        ra = ((near * left).sum(axis=1) * out[:, 0].conj()).real
        rb = -((far * left).sum(axis=1) * into[:, 0].conj()).real
        determinant = aa * bb - ab * ab
        with np.errstate(divide="ignore", invalid="ignore"):
            solved = np.stack([(ra * bb - rb * ab) / determinant, (rb * aa - ra * ab) / determinant], axis=1)
        share = solved / chord
        good = (np.isfinite(share) & (share > HANDLE_RANGE[0]) & (share < HANDLE_RANGE[1])).all(axis=1)
        handles = np.where(np.reshape(good, (-1, 1)), solved, chord / 3)
        p = control_points(ends, handles)
        if turn < rounds - 1:
            u = closer(p, data, u)
    distance = deviation(p, data, closer(p, data, u))
    return Fit(handles, distance.max(axis=1), np.sqrt((distance**2).mean(axis=1)))


def _complex(points: Array) -> NDArray[np.complex128]:
    """Points of shape (…, 2) as complex numbers of shape (…): half the work of two columns."""
    return np.ascontiguousarray(points).view(np.complex128)[..., 0]


def _powers(p: Array) -> tuple[NDArray[np.complex128], ...]:
    """Coefficients of u³, u², u, 1 of every cubic, each of shape (n, 1)."""
    a, b, c, d = (_complex(p[:, i])[:, None] for i in range(4))
    return d - 3 * c + 3 * b - a, 3 * (c - 2 * b + a), 3 * (b - a), a


def closer(p: Array, data: Array, u: Array) -> Array:
    """One Newton step of every parameter towards the foot of its data point, kept within 0..1."""
    c3, c2, c1, c0 = _powers(p)
    q = ((c3 * u + c2) * u + c1) * u + (c0 - _complex(data))
    first = (3 * c3 * u + 2 * c2) * u + c1
    second = 6 * c3 * u + 2 * c2
    above = q.real * first.real + q.imag * first.imag
    below = first.real**2 + first.imag**2 + q.real * second.real + q.imag * second.imag
    step = np.divide(above, below, out=np.zeros_like(above), where=np.abs(below) > 1e-12)
    return np.asarray(np.clip(u - np.clip(step, -0.2, 0.2), 0, 1), np.float64)


def deviation(p: Array, data: Array, u: Array) -> Array:
    """Distance of each data point from its place on the cubic, shape (n, k)."""
    c3, c2, c1, c0 = _powers(p)
    return np.asarray(np.abs(((c3 * u + c2) * u + c1) * u + (c0 - _complex(data))), np.float64)
