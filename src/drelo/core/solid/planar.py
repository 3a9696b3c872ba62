"""Rings of equal faces in an arrangement."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.region.arrangement import OUTSIDE, Arrangement
from drelo.core.region.sweep import bucketed, joined

Indices = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Borders:
    """Edges between faces that differ, each once, with `label` of the face on either side (OUTSIDE for none)."""

    start: Indices
    end: Indices
    left: Indices
    right: Indices
    left_face: Indices
    right_face: Indices


def labelled(a: Arrangement, label: Indices) -> tuple[Indices, Indices]:
    """Label of the face to the left and to the right of every edge; the outside and label OUTSIDE are one."""
    padded = np.append(label, OUTSIDE)
    return padded[a.left], padded[a.right]


def borders(a: Arrangement, label: Indices) -> Borders:
    """Borders between faces of different label."""
    left, right = labelled(a, label)
    at = np.flatnonzero(left != right)
    return Borders(a.edges[at, 0], a.edges[at, 1], left[at], right[at], a.left[at], a.right[at])


def straight_vertices(a: Arrangement, b: Borders) -> NDArray[np.bool_]:
    """Vertices that only two borders pass, in one straight line: nothing needs them. Shape (vertices,)."""
    count = len(a.vertices)
    ends = np.concatenate([b.start, b.end])
    others = np.concatenate([b.end, b.start])
    degree = np.bincount(ends, minlength=count)
    order = np.argsort(ends, kind="stable")
    first = np.concatenate([[0], np.cumsum(degree)])[:-1]
    two = np.flatnonzero(degree == 2)
    one = a.vertices[others[order[first[two]]]] - a.vertices[two]
    other = a.vertices[others[order[first[two] + 1]]] - a.vertices[two]
    flat = one[:, 0] * other[:, 1] == one[:, 1] * other[:, 0]
    result = np.zeros(count, bool)
    result[two[flat]] = True
    return result


@dataclass(frozen=True, eq=False)
class Rings:
    """Closed rings with their area on the left.

    vertices: shape (n,), vertex indices of all rings end to end. starts: shape (rings + 1,).
    label: shape (rings,). patch: shape (rings,), which connected patch of equal faces each ring bounds.
    """

    vertices: Indices
    starts: Indices
    label: Indices
    patch: Indices


def rings(a: Arrangement, label: Indices, skip: NDArray[np.bool_]) -> Rings:
    """Rings round every connected patch of faces of one label (OUTSIDE left out).

    skip: shape (vertices,), vertices that are left out of the rings.
    """
    left, right = labelled(a, label)
    b = borders(a, label)
    start = np.concatenate([b.start, b.end])
    owner = np.concatenate([b.left, b.right])
    face = np.concatenate([b.left_face, b.right_face])
    outgoing, begins = bucketed(start, len(a.vertices))
    walk, starts, first = cycles(a.vertices, start, outgoing, begins, owner != OUTSIDE, skip)
    inner = (left == right) & (left != OUTSIDE)
    patch = joined(len(label), a.left[inner], a.right[inner])
    return Rings(start[walk], starts, owner[first], patch[face[first]])


@compiled
def cycles(
    vertices: Indices,
    start: Indices,
    outgoing: Indices,
    begins: Indices,
    inside: NDArray[np.bool_],
    skip: NDArray[np.bool_],
) -> tuple[Indices, Indices, Indices]:
    """Borders in the order of their rings, less those that start in skipped vertices; where each ring begins; and the
    first border of each. Border h runs back as border h ± half their number."""
    half = len(start) // 2
    seen = ~inside
    walk = np.empty(len(start), np.int64)
    starts, first = np.empty(len(start) + 1, np.int64), np.empty(len(start), np.int64)
    starts[0] = 0
    size, count = 0, 0
    for origin in range(len(start)):
        if seen[origin]:
            continue
        at = origin
        while not seen[at]:
            seen[at] = True
            if not skip[start[at]]:
                walk[size] = at
                size += 1
            back = at + half if at < half else at - half
            at = _next_clockwise(vertices, start, outgoing, begins, back, half)
        first[count] = origin
        count += 1
        starts[count] = size
    return walk[:size], starts[: count + 1], first[:count]


@compiled
def _next_clockwise(vertices: Indices, start: Indices, outgoing: Indices, begins: Indices, back: int, half: int) -> int:
    """With the area on the left, a ring goes on along the border next clockwise from the way back."""
    vertex = start[back]
    low, high = begins[vertex], begins[vertex + 1]
    if high - low == 2:
        other: int = outgoing[low] if outgoing[low] != back else outgoing[low + 1]
        return other
    best, best_x, best_y, best_part = back, 0, 0, 3
    bx, by = _way(vertices, start, back, half)
    for k in range(low, high):
        border = outgoing[k]
        if border == back:
            continue
        x, y = _way(vertices, start, border, half)
        turn = bx * y - by * x
        # Less than a half turn clockwise, just that, or more.
        part = 0 if turn < 0 else (1 if turn == 0 else 2)
        if part < best_part or (part == best_part and best_x * y - best_y * x > 0):
            best, best_x, best_y, best_part = border, x, y, part
    return best


@compiled
def _way(vertices: Indices, start: Indices, border: int, half: int) -> tuple[int, int]:
    vertex, end = start[border], start[border + half if border < half else border - half]
    return vertices[end, 0] - vertices[vertex, 0], vertices[end, 1] - vertices[vertex, 1]


def distinct(values: Indices) -> Indices:
    """The different ones in their order. (Sorting is several times quicker here than NumPy's `unique`.)"""
    ordered = np.sort(values, axis=None)
    new = np.ones(len(ordered), bool)
    np.not_equal(ordered[1:], ordered[:-1], out=new[1:])
    return ordered[new]
