"""What a check found, as it goes along with the trace."""

from __future__ import annotations

import numpy as np

from drelo.core.near import points_tree
from drelo.core.trace.check.deviation import Deviation
from drelo.core.trace.trace import Check

# Places that fail nearer to each other than this (px) are one; at most so many are handed on.
APART, MOST = 14.0, 60


def check_of(again: int, crossings: int, off: Deviation) -> Check:
    """The figures of a trace: of all points of its lines, and where it failed to the last."""
    far = np.concatenate([np.empty((0, 3)), *off.spots])
    seen = off.off if len(off.off) else np.zeros(1)
    return Check(
        mean=float(seen.mean()),
        most=float(np.quantile(seen, 0.99)),
        furthest=float(seen.max()),
        crossings=crossings,
        again=again,
        off=_places(far),
    )


def _places(far: np.ndarray) -> tuple[tuple[float, float, float], ...]:
    """The worst of what lies together, the worst first."""
    if not len(far):
        return ()
    far = far[np.lexsort((far[:, 1], far[:, 0], -far[:, 2]))]
    places: list[tuple[float, float, float]] = []
    left = np.ones(len(far), bool)
    near = points_tree(far[:, :2])
    while left.any() and len(places) < MOST:
        first = int(np.argmax(left))
        x, y, distance = far[first].tolist()
        places.append((x, y, distance))
        left[near.within(far[first : first + 1, :2], APART)[0]] = False
    return tuple(places)
