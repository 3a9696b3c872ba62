"""What a print stands on: the parts of its first layer, how high each stands alone, and whether others hold it then."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.rehearsal.lines import Floats


@dataclass(frozen=True, eq=False)
class Foot:
    """shape: a part of the first layer. alone: how high it stands by itself, mm. is_held: others join it there."""

    shape: BaseGeometry
    alone: float
    is_held: bool


def feet(areas: Sequence[BaseGeometry], tops: Floats) -> list[Foot]:
    """The feet of a print. areas: what is solid in each layer; layers that are alike may be the same object."""
    if not len(areas):
        return []
    shapes = shapely.get_parts(areas[0])
    alone, is_held = [float(tops[0])] * len(shapes), [False] * len(shapes)
    # Which feet each part of the layer stands on.
    parts, on = shapes, [{number} for number in range(len(shapes))]
    before = areas[0]
    standing = set(range(len(shapes)))
    for area, top in zip(areas[1:], tops[1:].tolist(), strict=True):
        if not standing:
            break
        if area is not before:
            above = shapely.get_parts(area)
            carried: list[set[int]] = [set() for _ in above]
            if len(above) and len(parts):
                lower, upper = shapely.STRtree(parts).query(above, predicate="intersects")[::-1]
                for low, high in zip(lower.tolist(), upper.tolist(), strict=True):
                    carried[high] |= on[low]
            for group in carried:
                if len(group) > 1:
                    for number in group & standing:
                        is_held[number] = True
                    standing -= group
            standing &= set().union(*carried) if carried else set()
            parts, on, before = above, carried, area
        for number in standing:
            alone[number] = top
    return [Foot(*row) for row in zip(np.asarray(shapes, object), alone, is_held, strict=True)]
