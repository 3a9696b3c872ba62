"""Which holes belong to which shape."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline

# Chord tolerance (px) of the rings that decide what lies inside what.
ROUGH = 0.2


def nested(contours: Sequence[Contour]) -> tuple[Outline, ...]:
    """Every hole grouped with the smallest outer contour that holds it; largest outline first.

    Contours run with their area on the left as seen on the screen (y down), so that holes run the other way.
    """
    rings = [c.flattened(ROUGH) if len(c) > 2 else c.flattened(ROUGH / 20) for c in contours]
    # What runs there and back on one line covers nothing.
    areas = np.array([-c.area if len(r) > 2 else 0.0 for c, r in zip(contours, rings, strict=True)])
    outer, holes = np.flatnonzero(areas > 0), np.flatnonzero(areas < 0)
    inside: dict[int, list[int]] = {int(o): [] for o in outer}
    if len(holes) and len(outer):
        shapes = np.array([shapely.Polygon(rings[o]) for o in outer])
        shapely.prepare(shapes)
        tree = shapely.STRtree(shapes)
        # The middle of a segment lies clear of the nodes in which areas may touch.
        probe = shapely.points(np.array([rings[h][:2].mean(axis=0) for h in holes]))
        hole, holder = tree.query(probe, predicate="intersects")
        owner: dict[int, int] = {}
        for h, o in zip(hole.tolist(), outer[holder].tolist(), strict=True):
            bigger = areas[o] > -areas[holes[h]]
            if bigger and (h not in owner or areas[o] < areas[owner[h]]):
                owner[h] = o
        for h, o in owner.items():
            inside[o].append(int(holes[h]))
    order = sorted(inside, key=lambda o: -areas[o])
    return tuple(Outline(contours[o], tuple(contours[h] for h in inside[o])) for o in order)


def outer_only(outlines: Sequence[Outline]) -> tuple[Outline, ...]:
    """Outlines that lie inside no other, without their holes."""
    shapes = np.array([shapely.Polygon(o.outer.flattened(ROUGH / 20)) for o in outlines])
    probe = shapely.points(np.array([o.outer.curves[0, 0] for o in outlines]))
    inner, outer = shapely.STRtree(shapes).query(probe, predicate="within")
    held = {int(i) for i, o in zip(inner, outer, strict=True) if i != o}
    return tuple(Outline(o.outer) for i, o in enumerate(outlines) if i not in held)
