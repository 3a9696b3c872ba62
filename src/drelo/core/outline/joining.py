"""What joins loose parts: the growth that it takes, and the shortest bridges."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

# Of so many parts every pair is measured.
FEW = 60


@dataclass(frozen=True)
class Link:
    """The shortest way between two parts: from a point of one to a point of the other, mm."""

    start: tuple[float, float]
    end: tuple[float, float]
    length: float


def links(parts: Sequence[BaseGeometry]) -> tuple[Link, ...]:
    """The fewest and shortest ways that make all parts one: the minimum spanning tree of their distances.

    parts: polygonal or linear geometries. Ordered from the shortest to the longest.
    """
    shapes = np.array(parts)
    if len(shapes) < 2:
        return ()
    pairs = _near_pairs(shapes)
    distance = shapely.distance(shapes[pairs[:, 0]], shapes[pairs[:, 1]])
    # Sparse graphs take a zero for no edge.
    import scipy.sparse
    import scipy.sparse.csgraph

    graph = scipy.sparse.coo_matrix((distance + 1.0, (pairs[:, 0], pairs[:, 1])), shape=(len(shapes),) * 2)
    tree = scipy.sparse.csgraph.minimum_spanning_tree(graph.tocsr()).tocoo()
    found = []
    for i, j in zip(tree.row.tolist(), tree.col.tolist(), strict=True):
        (x0, y0), (x1, y1) = shapely.get_coordinates(shapely.shortest_line(shapes[i], shapes[j])).tolist()
        found.append(Link((x0, y0), (x1, y1), float(np.hypot(x1 - x0, y1 - y0))))
    return tuple(sorted(found, key=lambda link: (link.length, link.start)))


def joining_growth(parts: Sequence[BaseGeometry]) -> float:
    """The smallest growth, mm, at which all parts touch: half of the longest link; 0 for a single part."""
    return max((link.length for link in links(parts)), default=0.0) / 2


def _near_pairs(shapes: NDArray[np.object_]) -> NDArray[np.int64]:
    """Pairs that hold a minimum spanning tree: all of few parts, of many those that are Delaunay neighbours."""
    count = len(shapes)
    if count <= FEW:
        return np.column_stack(np.triu_indices(count, 1)).astype(np.int64)
    points, owner = shapely.get_coordinates(shapely.segmentize(shapes, _spacing(shapes)), return_index=True)
    from scipy.spatial import Delaunay

    sides = Delaunay(points).simplices[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2)
    pairs = np.sort(owner[sides], axis=1)
    return np.asarray(np.unique(pairs[pairs[:, 0] != pairs[:, 1]], axis=0), np.int64)


def _spacing(shapes: NDArray[np.object_]) -> float:
    box = shapely.total_bounds(shapes)
    return max(float(np.hypot(box[2] - box[0], box[3] - box[1])) / 400, 1e-9)


def bridge(link: Link, width: float, reach: float) -> BaseGeometry:
    """A straight bridge of `width` along a link, `reach` mm into both parts."""
    start, end = np.array(link.start), np.array(link.end)
    way = end - start
    size = float(np.hypot(*way))
    way = way / size if size > 1e-9 else np.array([1.0, 0.0])
    line = shapely.LineString([start - way * reach, end + way * reach])
    return shapely.buffer(line, width / 2, cap_style="flat")
