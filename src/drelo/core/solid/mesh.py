"""A triangle mesh."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.sparse
from numpy.typing import NDArray


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
    def volume(self) -> float:
        """Signed volume, mm³."""
        if not len(self.faces):
            return 0.0
        # Measured from a point of the mesh itself, so that far-off meshes keep their digits.
        a, b, c = np.moveaxis(self.corners - self.vertices[0].astype(np.float64), 1, 0)
        return float(np.einsum("ij,ij->", a, np.cross(b, c))) / 6

    @property
    def area(self) -> float:
        """Area of the surface, mm²."""
        a, b, c = np.moveaxis(self.corners, 1, 0)
        return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum()) / 2

    @property
    def size(self) -> tuple[float, float, float]:
        """Extent along x, y and z, mm."""
        if not len(self.faces):
            return 0.0, 0.0, 0.0
        used = self.vertices[np.unique(self.faces)].astype(np.float64)
        extent = used.max(axis=0) - used.min(axis=0)
        return float(extent[0]), float(extent[1]), float(extent[2])

    def shells(self) -> NDArray[np.int32]:
        """Number of the connected shell of every face, shape (f,)."""
        if not len(self.faces):
            return np.empty(0, np.int32)
        f = self.faces
        pairs = np.concatenate([f[:, :2], f[:, 1:]])
        graph = scipy.sparse.coo_matrix(
            (np.ones(len(pairs), np.int8), (pairs[:, 0], pairs[:, 1])), shape=(len(self.vertices),) * 2
        )
        _, label = scipy.sparse.csgraph.connected_components(graph, directed=False)
        _, shell = np.unique(label[f[:, 0]], return_inverse=True)
        return shell.astype(np.int32)


def welded(triangles: NDArray[np.float32]) -> Mesh:
    """A mesh from loose triangles, shape (f, 3, 3), vertices of equal coordinates made one."""
    # Adding zero turns -0.0 into 0.0, so that equal numbers have equal bytes.
    points = np.ascontiguousarray(triangles.reshape(-1, 3).astype(np.float32) + np.float32(0))
    rows = points.view(np.dtype((np.void, 12))).ravel()
    _, first, index = np.unique(rows, return_index=True, return_inverse=True)
    return Mesh(points[first], index.reshape(-1, 3).astype(np.int32))
