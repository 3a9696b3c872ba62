"""Which points lie near which: one door to the tree of points, which is loaded when many are first asked for.

Loading it takes longer than tracing a small picture, whose few points are compared one by one.
"""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

# Up to so many pairs are compared one by one, which takes a millisecond.
FEW = 200_000


def points_tree(points: Any, leaf: int = 10, balanced: bool = True) -> PointsTree:
    """A tree of points (N × 2 or N × 3) to ask for neighbours.

    An unbalanced one with large leaves is built sooner and asked slower: for many points asked once.
    """
    return PointsTree(np.asarray(points, float), leaf, balanced)


class PointsTree:
    """Points that are asked for those near others."""

    def __init__(self, points: NDArray[np.float64], leaf: int, balanced: bool) -> None:
        self._points, self._leaf, self._balanced = points, leaf, balanced

    @cached_property
    def _tree(self) -> cKDTree:
        from scipy.spatial import cKDTree

        return cKDTree(self._points, self._leaf, compact_nodes=self._balanced, balanced_tree=self._balanced)

    def query(self, at: Any) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
        """Distance and index of the nearest point to each of `at` (M × 2 or 3): inf and N where there is none."""
        at = np.asarray(at, float)
        if not len(at) or not len(self._points):
            return np.full(len(at), np.inf), np.full(len(at), len(self._points), np.int64)
        if not self._is_few(at):
            distance, index = self._tree.query(at)
            return np.asarray(distance), np.asarray(index, np.int64)
        square = self._squares(at)
        index = square.argmin(axis=1)
        return np.sqrt(square[np.arange(len(at)), index]), index

    def nearest_other(self) -> NDArray[np.float64]:
        """Distance of each point to the nearest of the others; inf where there is none."""
        return np.asarray(self._tree.query(self._points, k=2)[0])[:, 1]

    def within(self, at: Any, reach: float) -> list[NDArray[np.int64]]:
        """For each of `at` (M × 2 or 3) the indices of the points no further than `reach` from it."""
        at = np.asarray(at, float)
        if not len(at) or not len(self._points):
            return [np.zeros(0, np.int64)] * len(at)
        if not self._is_few(at):
            return [np.asarray(near, np.int64) for near in self._tree.query_ball_point(at, reach)]
        return [np.flatnonzero(row) for row in self._squares(at) <= reach**2]

    def count_within(self, at: Any, reach: float) -> NDArray[np.int64]:
        """How many points lie no further than `reach` from each of `at` (M × 2 or 3)."""
        at = np.asarray(at, float)
        if not len(at) or not len(self._points):
            return np.zeros(len(at), np.int64)
        if not self._is_few(at):
            return np.asarray(self._tree.query_ball_point(at, reach, return_length=True), np.int64)
        return np.asarray((self._squares(at) <= reach**2).sum(axis=1))

    def pairs(self, reach: float) -> NDArray[np.int64]:
        """The pairs (K × 2) of points that lie no further than `reach` from each other."""
        return np.asarray(self._tree.query_pairs(reach, output_type="ndarray"), np.int64)

    def _is_few(self, at: NDArray[np.float64]) -> bool:
        return len(at) * len(self._points) <= FEW and "_tree" not in self.__dict__

    def _squares(self, at: NDArray[np.float64]) -> NDArray[np.float64]:
        """Squared distances (M × N)."""
        square = np.zeros((len(at), len(self._points)))
        for axis in range(self._points.shape[1]):
            square += (at[:, None, axis] - self._points[None, :, axis]) ** 2
        return square
