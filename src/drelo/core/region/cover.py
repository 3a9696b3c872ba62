"""Which layer lies on top in each face."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.region.sweep import Sides, bucketed

Indices = NDArray[np.int64]


def topmost(sides: Sides, edge: Indices, layer: Indices, layers: int) -> Indices:
    """For each face the last layer that covers it, -1 for none, shape (faces,).

    edge, layer: shape (m,), which edges are borders of which layers: to cross one is to enter or leave the layer.
    """
    face = np.concatenate([sides.above, sides.below])
    order, begins = bucketed(face, sides.count)
    borders, borders_begin = bucketed(edge, len(sides.above))
    return _walk(sides.above, sides.below, order % len(sides.above), begins, layer[borders], borders_begin, layers)


@compiled
def _walk(
    above: Indices,
    below: Indices,
    edges: Indices,
    begins: Indices,
    layers: Indices,
    layers_begin: Indices,
    count: int,
) -> Indices:
    """From the outside through every edge to a face not yet seen, and back: what covers is kept in a tree of maxima."""
    faces = len(begins) - 1
    top = np.full(faces, -1)
    width = 1
    while width < count:
        width *= 2
    highest = np.full(2 * width, -1)
    seen = np.zeros(faces, np.bool_)
    seen[0] = True
    at = begins.copy()
    trail, by = np.empty(faces, np.int64), np.empty(faces, np.int64)
    trail[0], by[0] = 0, -1
    depth = 0
    while depth >= 0:
        face = trail[depth]
        if at[face] < begins[face + 1]:
            edge = edges[at[face]]
            at[face] += 1
            other = below[edge] if above[edge] == face else above[edge]
            if seen[other]:
                continue
            seen[other] = True
            depth += 1
            trail[depth], by[depth] = other, edge
        else:
            edge = by[depth]
            depth -= 1
            other = -1
        if edge < 0:
            break
        for k in range(layers_begin[edge], layers_begin[edge + 1]):
            node = width + layers[k]
            highest[node] = -1 if highest[node] >= 0 else layers[k]
            while node > 1:
                node //= 2
                highest[node] = max(highest[2 * node], highest[2 * node + 1])
        if other >= 0:
            top[other] = highest[1]
    return top
