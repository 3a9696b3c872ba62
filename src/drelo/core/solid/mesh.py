"""A triangle mesh."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.region.sweep import joined


@dataclass(frozen=True, eq=False)
class Mesh:
    """Triangles that share vertices.

    vertices: shape (v, 3), float32, mm, z up. faces: shape (f, 3), int32, counter-clockwise seen from outside.
    """

    vertices: NDArray[np.float32]
    faces: NDArray[np.int32]

    @property
    def corners(self) -> NDArray[np.float64]:
        """Corner coordinates of every triangle, shape (f, 3, 3)."""
        return self.vertices[self.faces].astype(np.float64)

    @property
    def volumes(self) -> NDArray[np.float64]:
        """Signed volume that each face adds to its mesh's, mm³, shape (f,)."""
        return self._measures[0]

    @property
    def volume(self) -> float:
        """Signed volume, mm³."""
        return float(self.volumes.sum())

    @property
    def area(self) -> float:
        """Area of the surface, mm²."""
        return float(self._measures[1].sum())

    @cached_property
    def _measures(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        return _measured(self.vertices, self.faces)

    @property
    def size(self) -> tuple[float, float, float]:
        """Extent along x, y and z, mm."""
        if not len(self.faces):
            return 0.0, 0.0, 0.0
        is_used = np.zeros(len(self.vertices), bool)
        is_used[self.faces.ravel()] = True
        used = self.vertices[is_used]
        x, y, z = (float(used[:, k].max()) - float(used[:, k].min()) for k in range(3))
        return x, y, z

    def shells(self) -> NDArray[np.int32]:
        """Number of the connected shell of every face, shape (f,)."""
        return self._shells

    @cached_property
    def _shells(self) -> NDArray[np.int32]:
        a, b, c = self.faces.astype(np.int64).T
        lowest = joined(len(self.vertices), np.concatenate([a, a]), np.concatenate([b, c]))[a]
        is_shell = np.zeros(len(self.vertices), bool)
        is_shell[lowest] = True
        return np.asarray((np.cumsum(is_shell) - 1)[lowest], np.int32)


def side_by_side(meshes: Sequence[Mesh]) -> Mesh:
    """Meshes as one that has the triangles of all; their vertices stay apart."""
    if len(meshes) == 1:
        return meshes[0]
    begins = np.cumsum([0, *(len(mesh.vertices) for mesh in meshes)])
    faces = [mesh.faces + np.int32(begin) for mesh, begin in zip(meshes, begins, strict=False)]
    return Mesh(np.concatenate([mesh.vertices for mesh in meshes]), np.concatenate(faces))


def turned_over(mesh: Mesh, size: tuple[float, float, float]) -> Mesh:
    """A mesh turned by half a turn about a level line, so that its top is below. size: of the box in which it turns."""
    _, deep, high = (np.float32(v) for v in size)
    x, y, z = mesh.vertices.T
    return Mesh(np.column_stack([x, deep - y, high - z]).astype(np.float32), mesh.faces)


@compiled
def _measured(
    vertices: NDArray[np.float32], faces: NDArray[np.int32]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Signed volume and area of every face, seen from the first vertex, so that far-off meshes keep their digits."""
    volume, area = np.empty(len(faces)), np.empty(len(faces))
    p = np.empty((3, 3))
    for f in range(len(faces)):
        for k in range(3):
            for axis in range(3):
                p[k, axis] = np.float64(vertices[faces[f, k], axis]) - np.float64(vertices[0, axis])
        ux, uy, uz = p[1, 0] - p[0, 0], p[1, 1] - p[0, 1], p[1, 2] - p[0, 2]
        vx, vy, vz = p[2, 0] - p[0, 0], p[2, 1] - p[0, 1], p[2, 2] - p[0, 2]
        nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        volume[f] = (p[0, 0] * nx + p[0, 1] * ny + p[0, 2] * nz) / 6
        area[f] = np.sqrt(nx * nx + ny * ny + nz * nz) / 2
    return volume, area


@compiled
def unit_normals(corners: NDArray[np.float32]) -> NDArray[np.float32]:
    """Normals of triangles, shape (f, 3), of length 1; 0 where a triangle has no area. corners: shape (f, 3, 3)."""
    result = np.zeros((len(corners), 3), np.float32)
    u, v = np.empty(3), np.empty(3)
    for f in range(len(corners)):
        for k in range(3):
            u[k] = np.float64(corners[f, 1, k]) - np.float64(corners[f, 0, k])
            v[k] = np.float64(corners[f, 2, k]) - np.float64(corners[f, 0, k])
        x, y, z = u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]
        length = np.sqrt(x * x + y * y + z * z)
        if length > 0:
            result[f, 0], result[f, 1], result[f, 2] = x / length, y / length, z / length
    return result


def welded(triangles: NDArray[np.float32]) -> Mesh:
    """A mesh from loose triangles, shape (f, 3, 3), vertices of equal coordinates made one, in the order they come."""
    # Adding zero turns -0.0 into 0.0, so that equal numbers have equal bytes.
    points = np.ascontiguousarray(triangles.reshape(-1, 3).astype(np.float32) + np.float32(0))
    first, index = _welded(points.view(np.uint32))
    return Mesh(points[first], index.reshape(-1, 3))


@compiled
def _welded(words: NDArray[np.uint32]) -> tuple[NDArray[np.int64], NDArray[np.int32]]:
    """Where each different row of three words comes first, and the number of each row's, by a table of hashes."""
    size = 16
    while size < 2 * len(words):
        size *= 2
    table = np.full(size, -1, np.int32)
    first, index = np.empty(len(words), np.int64), np.empty(len(words), np.int32)
    count = 0
    for i in range(len(words)):
        code = np.uint64(words[i, 0]) * np.uint64(0x9E3779B97F4A7C15)
        code = (code ^ (code >> np.uint64(29)) ^ np.uint64(words[i, 1])) * np.uint64(0xBF58476D1CE4E5B9)
        code = (code ^ (code >> np.uint64(32)) ^ np.uint64(words[i, 2])) * np.uint64(0x94D049BB133111EB)
        at = np.int64((code >> np.uint64(20)) & np.uint64(size - 1))
        while table[at] >= 0:
            known = first[table[at]]
            if words[known, 0] == words[i, 0] and words[known, 1] == words[i, 1] and words[known, 2] == words[i, 2]:
                break
            at = (at + 1) & (size - 1)
        if table[at] < 0:
            table[at] = count
            first[count] = i
            count += 1
        index[i] = table[at]
    return first[:count], index
