"""Pairs of faces that are too near each other to be told apart by a plane, by a tree of boxes: for large meshes."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from drelo.core.boxes import LEAF, along_curve, meet, tree_of
from drelo.core.compiled import THREADS, compiled

Array = NDArray[np.float64]
Indices = NDArray[np.int64]


def near_pairs(faces: NDArray[np.int32], corners: Array, normals: Array, offsets: Array, sure: Array) -> Indices:
    """Pairs of faces, shape (n, 2), less neighbours across an edge that are not folded together, and less those
    that a plane of one of them surely parts.

    corners: shape (f, 3, 3). normals, offsets, sure: four planes a face, shapes (f, 4, 3), (f, 4), (f, 4).
    """
    order = along_curve(corners.mean(axis=1))
    low, high = corners.min(axis=1)[order], corners.max(axis=1)[order]
    tree_low, tree_high = tree_of(low, high)
    rows = (faces[order], corners[order], normals[order], offsets[order], sure[order])
    ends = np.linspace(0, len(order), THREADS * 4 + 1).astype(int).tolist()

    def of_some(begin: int, end: int) -> Indices:
        return _pairs(begin, end, low, high, tree_low, tree_high, *rows)

    with ThreadPoolExecutor(THREADS) as threads:
        found = np.concatenate(list(threads.map(of_some, ends[:-1], ends[1:])))
    pairs: Indices = order[found]
    return pairs


@compiled
def _pairs(
    begin: int,
    end: int,
    low: Array,
    high: Array,
    tree_low: Array,
    tree_high: Array,
    faces: NDArray[np.int32],
    corners: Array,
    normals: Array,
    offsets: Array,
    sure: Array,
) -> Indices:
    # Whole arrays and row numbers are handed on: a row taken out as an array of its own costs more than the test.
    width = len(tree_low) // 2
    levels = 0
    while 1 << levels < width:
        levels += 1
    count = 0
    found = np.empty((1024, 2), np.int64)
    stack = np.empty((128, 2), np.int64)
    for i in range(begin, end):
        depth = 1
        stack[0, 0], stack[0, 1] = 1, levels
        while depth:
            depth -= 1
            node, level = stack[depth, 0], stack[depth, 1]
            # The last leaf under the node holds no later face: each pair is found from its first one.
            if (((node + 1) << level) - width) * LEAF <= i + 1 or not meet(low, high, i, tree_low, tree_high, node, 0):
                continue
            if level:
                stack[depth, 0], stack[depth, 1] = 2 * node, level - 1
                stack[depth + 1, 0], stack[depth + 1, 1] = 2 * node + 1, level - 1
                depth += 2
                continue
            leaf = (node - width) * LEAF
            for j in range(max(leaf, i + 1), min(leaf + LEAF, len(low))):
                if (
                    not meet(low, high, i, low, high, j, 0)
                    or _neighbours(faces, normals, i, j)
                    or _apart(faces, corners, normals, offsets, sure, i, j)
                    or _apart(faces, corners, normals, offsets, sure, j, i)
                ):
                    continue
                if count == len(found):
                    more = np.empty((2 * count, 2), np.int64)
                    more[:count] = found
                    found = more
                found[count, 0], found[count, 1] = i, j
                count += 1
    return found[:count]


@compiled
def _is_corner(faces: NDArray[np.int32], vertex: int, i: int) -> bool:
    return bool(vertex == faces[i, 0] or vertex == faces[i, 1] or vertex == faces[i, 2])


@compiled
def _neighbours(faces: NDArray[np.int32], normals: Array, i: int, j: int) -> bool:
    """Whether faces share an edge and are not folded together."""
    shared = 0
    for k in range(3):
        if _is_corner(faces, faces[j, k], i):
            shared += 1
    if shared < 2:
        return False
    alike = 0.0
    for k in range(3):
        alike += normals[i, 0, k] * normals[j, 0, k]
    return alike >= 0


@compiled
def _apart(
    faces: NDArray[np.int32], corners: Array, normals: Array, offsets: Array, sure: Array, i: int, j: int
) -> bool:
    """Whether a plane of face i surely parts face j from it, told as in `crossing._clearly_apart`."""
    level = normals[i, 0, 0] == 0 and normals[i, 0, 1] == 0
    beyond, below, over, under = True, True, True, True
    for k in range(3):
        off = _off(corners, normals, offsets, i, j, k, 0)
        if not _is_corner(faces, faces[j, k], i):
            beyond = beyond and off > sure[i, 0]
            below = below and off < -sure[i, 0]
        over = over and off >= 0
        under = under and off <= 0
    if beyond or below:
        return True
    grazing = level and (over or under)
    for side in range(3):
        parted = True
        for k in range(3):
            vertex = faces[j, k]
            if vertex == faces[i, side] or vertex == faces[i, (side + 1) % 3]:
                continue
            if grazing and _off(corners, normals, offsets, i, j, k, 0) != 0:
                continue
            if _off(corners, normals, offsets, i, j, k, side + 1) <= sure[i, side + 1]:
                parted = False
                break
        if parted:
            return True
    return False


@compiled
def _off(corners: Array, normals: Array, offsets: Array, i: int, j: int, k: int, plane: int) -> float:
    """How far corner k of face j is off a plane of face i."""
    off: float = -offsets[i, plane]
    for axis in range(3):
        off += normals[i, plane, axis] * corners[j, k, axis]
    return off
