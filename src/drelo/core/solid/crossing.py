"""Triangles that run through each other or overlap, found exactly."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.solid.mesh import Mesh

Array = NDArray[np.float64]
Indices = NDArray[np.int64]

# From so many faces on, pairs are found by compiled code.
MANY = 8_000
# Pairs looked at in one go.
BATCH = 100_000
# Faces whose neighbours are searched in one go.
SEARCH = 8_000
# Share of the sum of a determinant's terms below which doubles do not tell its sign (Shewchuk's bound, rounded up).
ROUNDING = 4e-15


def first_crossing(mesh: Mesh) -> tuple[int, int] | None:
    """A pair of faces that cross, overlap or touch away from shared vertices; None when there is none.

    mesh: welded, without degenerate faces. Signs are exact; doubles only where they are sure.
    """
    planes = _planes(mesh)
    for one, other in _candidates(mesh) if len(mesh.faces) < MANY else _near(mesh, planes):
        found = _crossing(mesh, planes, one, other)
        if found is not None:
            return found
    return None


def _near(mesh: Mesh, planes: _Planes) -> Iterator[tuple[Indices, Indices]]:
    """The same for a large mesh, and what planes surely part is left out already."""
    # Loading the compiler takes longer than a small mesh.
    from drelo.core.solid.near import near_pairs

    pairs = near_pairs(mesh.faces, mesh.corners, planes.normals, planes.offsets, planes.sure)
    for at in range(0, len(pairs), BATCH):
        yield pairs[at : at + BATCH, 0], pairs[at : at + BATCH, 1]


def _candidates(mesh: Mesh) -> Iterator[tuple[Indices, Indices]]:
    """Batches of pairs of faces whose boxes meet, less neighbours across an edge that are not folded together."""
    corners = mesh.corners
    low, high = corners.min(axis=1), corners.max(axis=1)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    tree = shapely.STRtree(boxes)
    for at in range(0, len(boxes), SEARCH):
        here, there = tree.query(boxes[at : at + SEARCH])
        here += at
        keep = (here < there) & (low[here, 2] <= high[there, 2]) & (low[there, 2] <= high[here, 2])
        here, there = here[keep], there[keep]
        for part in range(0, len(here), BATCH):
            one, other = here[part : part + BATCH], there[part : part + BATCH]
            shared = _shared(mesh, one, other).any(axis=2).sum(axis=1)
            alike = np.einsum("ij,ij->i", normal[one], normal[other])
            keep = (shared < 2) | (alike < 0)
            yield one[keep], other[keep]


def _shared(mesh: Mesh, one: Indices, other: Indices) -> NDArray[np.bool_]:
    """Which corners are one vertex, shape (n, corners of one, corners of the other)."""
    return np.asarray(mesh.faces[one][:, :, None] == mesh.faces[other][:, None, :])


def _crossing(mesh: Mesh, planes: _Planes, one: Indices, other: Indices) -> tuple[int, int] | None:
    # A triangle wholly beyond a plane of the other, but for shared corners, neither crosses nor overlaps it.
    for turn in range(2):
        first, second = (one, other) if turn == 0 else (other, one)
        near = ~_clearly_apart(mesh, planes, first, second)
        one, other = one[near], other[near]
    if not len(one):
        return None
    corners = mesh.vertices.astype(np.float64)
    p, q = corners[mesh.faces[one]], corners[mesh.faces[other]]
    side_p, side_q = _sides(q, p), _sides(p, q)
    shared = _shared(mesh, one, other)
    flat = (side_q == 0).all(axis=1)
    bad = np.zeros(len(one), bool)
    bad[flat] = _overlapping(p[flat], q[flat])
    tilted = ~flat
    bad[tilted] = _pierced(p[tilted], q[tilted], side_p[tilted], shared[tilted].any(axis=2))
    bad[tilted] |= _pierced(q[tilted], p[tilted], side_q[tilted], shared[tilted].any(axis=1))
    if not bad.any():
        return None
    at = int(np.argmax(bad))
    return int(one[at]), int(other[at])


@dataclass(frozen=True, eq=False)
class _Planes:
    """Four planes a face: its own, and one through each side, upright on it and looking outward.

    normals: shape (f, 4, 3). offsets: shape (f, 4). sure: shape (f, 4), distance that rounding cannot feign.
    """

    normals: Array
    offsets: Array
    sure: Array


def _planes(mesh: Mesh) -> _Planes:
    corners = mesh.corners
    sides = np.roll(corners, -1, axis=1) - corners
    normal = np.cross(sides[:, 0], sides[:, 1])
    normals = np.concatenate([normal[:, None], np.cross(sides, normal[:, None])], axis=1)
    normals /= np.maximum(np.abs(normals).max(axis=2, keepdims=True), 1e-300)
    points = np.concatenate([corners[:, :1], corners], axis=1)
    offsets = np.einsum("fki,fki->fk", normals, points)
    reach = np.abs(corners).max()
    return _Planes(normals, offsets, np.full(offsets.shape, 256 * ROUNDING * max(reach, 1e-300)))


def _clearly_apart(mesh: Mesh, planes: _Planes, first: Indices, second: Indices) -> NDArray[np.bool_]:
    """Whether a plane of the first face has all of the second surely on its far side, but for shared corners in it.

    What only grazes the first face's own level from one side meets it, if at all, with the corners that lie on that
    level; offsets from a level are exact.
    """
    points = mesh.vertices[mesh.faces[second]].astype(np.float64)
    off = planes.normals[first] @ points.transpose(0, 2, 1) - planes.offsets[first][:, :, None]
    sure = planes.sure[first][:, :, None]
    same = mesh.faces[second][:, None, :] == mesh.faces[first][:, :, None]
    shared = np.concatenate([same.any(axis=1, keepdims=True), same | np.roll(same, -1, axis=1)], axis=1)
    own = off[:, 0]
    level = (planes.normals[first, 0, :2] == 0).all(axis=1)
    grazing = level & ((own >= 0).all(axis=1) | (own <= 0).all(axis=1))
    lifted = grazing[:, None] & (own != 0)
    beyond = shared | (off > sure)
    beyond[:, 1:] |= lifted[:, None]
    below = (shared[:, 0] | (own < -sure[:, 0])).all(axis=1)
    parted = np.asarray(beyond.all(axis=2)).any(axis=1)
    return np.asarray(parted | below)


def _sides(triangle: Array, points: Array) -> Array:
    """Sign of each of three points against the plane of a triangle, shape (n, 3)."""
    return np.stack([_orient(triangle[:, 0], triangle[:, 1], triangle[:, 2], points[:, i]) for i in range(3)], axis=1)


def _overlapping(p: Array, q: Array) -> NDArray[np.bool_]:
    """Whether triangles of one plane share more than their borders: no side of either parts them."""
    normal = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    drop = np.argmax(np.abs(normal), axis=1)
    keep = np.stack([(drop + 1) % 3, (drop + 2) % 3], axis=1)
    flat_p, flat_q = (np.take_along_axis(t, keep[:, None, :].repeat(3, axis=1), axis=2) for t in (p, q))
    parted = np.zeros(len(p), bool)
    for one, other in ((flat_p, flat_q), (flat_q, flat_p)):
        turn = _turn(one[:, 0], one[:, 1], one[:, 2])
        for i in range(3):
            a, b = one[:, i], one[:, (i + 1) % 3]
            inside = np.stack([_turn(a, b, other[:, k]) for k in range(3)], axis=1) * turn[:, None]
            parted |= (inside <= 0).all(axis=1)
    return ~parted


def _pierced(p: Array, q: Array, side: Array, shared: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Whether a side or an unshared corner of p meets q; `side` are the signs of p's corners against q's plane."""
    bad = np.zeros(len(p), bool)
    for i in range(3):
        j = (i + 1) % 3
        at = np.flatnonzero(side[:, i] * side[:, j] < 0)
        around = np.stack([_orient(p[at, i], p[at, j], q[at, k], q[at, (k + 1) % 3]) for k in range(3)], axis=1)
        bad[at] |= (around >= 0).all(axis=1) | (around <= 0).all(axis=1)
        at = np.flatnonzero((side[:, i] == 0) & ~shared[:, i])
        bad[at] |= _within(p[at, i], q[at])
    return bad


def _within(point: Array, triangle: Array) -> NDArray[np.bool_]:
    """Whether points in the planes of triangles lie in them, border included."""
    normal = np.cross(triangle[:, 1] - triangle[:, 0], triangle[:, 2] - triangle[:, 0])
    drop = np.argmax(np.abs(normal), axis=1)
    keep = np.stack([(drop + 1) % 3, (drop + 2) % 3], axis=1)
    flat = np.take_along_axis(triangle, keep[:, None, :].repeat(3, axis=1), axis=2)
    spot = np.take_along_axis(point, keep, axis=1)
    turns = np.stack([_turn(flat[:, k], flat[:, (k + 1) % 3], spot) for k in range(3)], axis=1)
    return np.asarray((turns >= 0).all(axis=1) | (turns <= 0).all(axis=1))


def _orient(a: Array, b: Array, c: Array, d: Array) -> Array:
    """Exact sign of the volume of tetrahedra a, b, c, d, each of shape (n, 3)."""
    u, v, w = a - d, b - d, c - d
    terms = (
        u[:, 0] * (v[:, 1] * w[:, 2]), -u[:, 0] * (v[:, 2] * w[:, 1]),
        u[:, 1] * (v[:, 2] * w[:, 0]), -u[:, 1] * (v[:, 0] * w[:, 2]),
        u[:, 2] * (v[:, 0] * w[:, 1]), -u[:, 2] * (v[:, 1] * w[:, 0]),
    )  # fmt: skip
    return _sure_sign(terms, (a, b, c, d), _exact_volume)


def _turn(a: Array, b: Array, c: Array) -> Array:
    """Exact sign of the area of plane triangles a, b, c, each of shape (n, 2)."""
    u, v = a - c, b - c
    return _sure_sign((u[:, 0] * v[:, 1], -u[:, 1] * v[:, 0]), (a, b, c), _exact_area)


def _sure_sign(terms: tuple[Array, ...], points: tuple[Array, ...], exact: Callable[..., NDArray[np.object_]]) -> Array:
    value, size = np.zeros(len(points[0])), np.zeros(len(points[0]))
    for term in terms:
        value += term
        size += np.abs(term)
    sign = np.sign(value)
    unsure = np.flatnonzero((np.abs(value) <= size * ROUNDING) & (size > 0))
    if len(unsure):
        whole = exact(*(_integers(p[unsure]) for p in points))
        sign[unsure] = [(x > 0) - (x < 0) for x in whole]
    return sign


def _exact_volume(*points: NDArray[np.object_]) -> NDArray[np.object_]:
    a, b, c, d = points
    u, v, w = (a - d).T, (b - d).T, (c - d).T
    return np.asarray(
        u[0] * (v[1] * w[2] - v[2] * w[1]) + u[1] * (v[2] * w[0] - v[0] * w[2]) + u[2] * (v[0] * w[1] - v[1] * w[0])
    )


def _exact_area(*points: NDArray[np.object_]) -> NDArray[np.object_]:
    a, b, c = points
    u, v = (a - c).T, (b - c).T
    return np.asarray(u[0] * v[1] - u[1] * v[0])


def _integers(x: Array) -> NDArray[np.object_]:
    """32-bit floats as whole multiples of the smallest of them, as Python's unbounded integers."""
    mantissa, exponent = np.frexp(x)
    whole = (mantissa * 2.0**24).astype(np.int64).astype(object)
    return np.asarray(np.left_shift(whole, (exponent + 149).astype(object)))
