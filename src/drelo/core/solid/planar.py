"""Rings of equal faces in an arrangement."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.sparse
from numpy.typing import NDArray

from drelo.core.region.arrangement import OUTSIDE, Arrangement

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
    differ = left != right
    b = borders(a, label)
    start = np.concatenate([b.start, b.end])
    end = np.concatenate([b.end, b.start])
    owner = np.concatenate([b.left, b.right])
    face = np.concatenate([b.left_face, b.right_face])
    count = len(start)
    twin = np.concatenate([np.arange(count // 2, count), np.arange(count // 2)])
    way = (a.vertices[end] - a.vertices[start]).astype(np.float64)
    angle = np.arctan2(way[:, 1], way[:, 0])
    order = np.lexsort((angle, start))
    place = np.empty(count, np.int64)
    place[order] = np.arange(count)
    begin = np.searchsorted(start[order], start)
    last = np.searchsorted(start[order], start, side="right") - 1
    # With the area on the left, the ring goes on along the border next clockwise from the way back.
    clockwise = order[np.where(place == begin, last, place - 1)]
    following = clockwise[twin]
    inside = owner != OUTSIDE
    walk, starts, first = _cycles(following, inside, skip[start])
    inner = ~differ & (left != OUTSIDE)
    graph = scipy.sparse.coo_matrix(
        (np.ones(np.count_nonzero(inner), np.int8), (a.left[inner], a.right[inner])), shape=(len(label),) * 2
    )
    _, patch_of_face = scipy.sparse.csgraph.connected_components(graph, directed=False)
    return Rings(start[walk], starts, owner[first], patch_of_face[face[first]].astype(np.int64))


def _cycles(following: Indices, inside: NDArray[np.bool_], skip: NDArray[np.bool_]) -> tuple[Indices, Indices, Indices]:
    after, left_out = following.tolist(), skip.tolist()
    seen = bytearray((~inside).astype(np.uint8).tobytes())
    walk: list[int] = []
    starts, first = [0], []
    for origin in range(len(after)):
        if seen[origin]:
            continue
        at = origin
        while not seen[at]:
            seen[at] = 1
            if not left_out[at]:
                walk.append(at)
            at = after[at]
        starts.append(len(walk))
        first.append(origin)
    return np.array(walk, np.int64), np.array(starts, np.int64), np.array(first, np.int64)
