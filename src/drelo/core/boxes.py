"""A tree of boxes in two or three dimensions, for loops that look for pairs that may touch."""

from __future__ import annotations

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled

Places = TypeVar("Places", NDArray[np.float64], NDArray[np.int64])
Indices = NDArray[np.int64]

# Boxes of one leaf of the tree.
LEAF = 4
# Beyond all whole coordinates.
FAR = 1 << 60
# Steps of the curve along which places are ordered, a side.
BITS = 16
STEPS = 1 << BITS


def along_curve(middles: Places) -> Indices:
    """An order of places, shape (n, d), d 2 or 3, in which near ones mostly follow each other (Morton)."""
    low = middles.min(axis=0)
    reach = (middles.max(axis=0) - low).max()
    if middles.dtype.kind == "i":
        steps = (middles - low) >> max(int(reach).bit_length() - BITS, 0)
    else:
        steps = ((middles - low) * ((STEPS - 1) / max(float(reach), 1e-300))).astype(np.int64)
    apart = _SET_APART[middles.shape[1]]
    code = np.zeros(len(middles), np.uint64)
    for axis in range(middles.shape[1]):
        code |= apart[steps[:, axis]] << np.uint64(axis)
    return np.argsort(code, kind="stable")


def tree_of(low: Places, high: Places) -> tuple[Places, Places]:
    """Boxes of a complete binary tree over leaves of consecutive boxes; node n has the children 2n and 2n + 1.

    low, high: shape (n, d), ordered as `along_curve` says.
    """
    leaves, sides = -(-len(low) // LEAF), low.shape[1]
    width = 1 << max(leaves - 1, 0).bit_length()
    beyond = np.inf if low.dtype.kind == "f" else FAR
    lows = np.full((width * LEAF, sides), beyond, low.dtype)
    highs = np.full((width * LEAF, sides), -beyond, high.dtype)
    lows[: len(low)], highs[: len(high)] = low, high
    lows, highs = lows.reshape(width, LEAF, sides).min(axis=1), highs.reshape(width, LEAF, sides).max(axis=1)
    tree_low, tree_high = np.empty((2 * width, sides), low.dtype), np.empty((2 * width, sides), high.dtype)
    while True:
        tree_low[width : 2 * width], tree_high[width : 2 * width] = lows, highs
        if width == 1:
            return tree_low, tree_high
        width //= 2
        lows, highs = lows.reshape(width, 2, sides).min(axis=1), highs.reshape(width, 2, sides).max(axis=1)


@compiled
def meet(low: Places, high: Places, i: int, other_low: Places, other_high: Places, j: int, step: int) -> bool:
    """Whether box i comes within a step of box j of the others."""
    # Branches, not one long expression: compiled, that is three times as slow.
    for k in range(low.shape[1]):
        if low[i, k] > other_high[j, k] + step or other_low[j, k] > high[i, k] + step:
            return False
    return True


def _set_apart(sides: int) -> NDArray[np.uint64]:
    """For each number of so many bits the same bits with room for those of the other sides between them."""
    number, result = np.arange(STEPS, dtype=np.uint64), np.zeros(STEPS, np.uint64)
    for bit in range(BITS):
        result |= ((number >> np.uint64(bit)) & np.uint64(1)) << np.uint64(sides * bit)
    return result


_SET_APART = {sides: _set_apart(sides) for sides in (2, 3)}
