"""Which points lie near which: one door to the tree of points, which is loaded when it is first asked for.

Loading it takes longer than tracing a small picture, and most small pictures never ask.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from scipy.spatial import cKDTree


def points_tree(points: Any, leaf: int = 10, balanced: bool = True) -> cKDTree:
    """A tree of points (N × 2 or N × 3) to ask for neighbours.

    An unbalanced one with large leaves is built sooner and asked slower: for many points asked once.
    """
    from scipy.spatial import cKDTree

    return cKDTree(points, leaf, compact_nodes=balanced, balanced_tree=balanced)
