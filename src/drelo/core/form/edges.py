"""Edges of raised and sunk regions: bevelled, rounded or drafted, in steps no coarser than a print layer."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import quarter_steps

EdgeKind = Literal["straight", "bevel", "round", "draft"]
MAX_EDGE, MAX_DRAFT = 20.0, 60.0
# An inset this small (mm) is no step of its own.
LEAST_STEP = 0.004


@dataclass(frozen=True)
class Edge:
    """How a region's edge falls off. size: of a bevel or round, mm. angle: of a draft, degrees from upright."""

    kind: EdgeKind = "straight"
    size: float = 0.6
    angle: float = 8.0


STRAIGHT = Edge()


def check_edge(edge: Edge, field: str) -> None:
    """Raises Refusal with the field's path when a number is out of range."""
    if not (math.isfinite(edge.size) and 0 < edge.size <= MAX_EDGE):
        raise Refusal("edge.size", f"{field}.size", most=MAX_EDGE)
    if not (math.isfinite(edge.angle) and 0 < edge.angle <= MAX_DRAFT):
        raise Refusal("edge.draft", f"{field}.angle", most=MAX_DRAFT)


def profile(edge: Edge, rise: float, layer: float) -> list[tuple[float, float]]:
    """Inset from the outline, and how far up from the foot it reaches, mm: from the widest step to the innermost.

    rise: height of the wall. layer: of the print, mm; no step is higher.
    """
    if edge.kind == "straight" or rise <= 0:
        return [(0.0, rise)]
    if edge.kind == "draft":
        count = max(1, math.ceil(rise / layer - 1e-9))
        reach = rise * math.tan(math.radians(edge.angle))
        return _merged([(reach * i / count, rise * (i + 1) / count) for i in range(count)])
    size = min(edge.size, rise)
    count = max(1, math.ceil(size / layer - 1e-9))
    steps = [(0.0, rise - size)] if rise > size else []
    for i in range(count):
        up = (i + 0.5) / count
        inset = size * up if edge.kind == "bevel" else size * (1 - math.sqrt(max(0.0, 1 - up * up)))
        steps.append((inset, rise - size + size * (i + 1) / count))
    return _merged(steps)


def footing(edge: Edge, rise: float, layer: float) -> list[tuple[float, float]]:
    """How far a drafted wall stands out beyond its face, and how far up that reaches, mm: from the foot up.

    The face itself is no step of it.
    """
    count = max(1, math.ceil(rise / layer - 1e-9))
    reach = rise * math.tan(math.radians(edge.angle))
    steps = [(reach * (count - 1 - i) / count, rise * (i + 1) / count) for i in range(count)]
    return [(by, top) for by, top in steps if by >= LEAST_STEP]


def pocket_profile(edge: Edge, depth: float, layer: float) -> list[tuple[float, float]]:
    """Inset from the outline, and how deep it reaches, mm: from the rim to the floor of a sunk region."""
    if edge.kind in ("straight", "draft"):
        return profile(edge, depth, layer)
    size = min(edge.size, depth)
    count = max(1, math.ceil(size / layer - 1e-9))
    steps = []
    for i in range(count):
        down = (i + 0.5) / count
        by = size * down if edge.kind == "bevel" else size * math.sqrt(1 - (1 - down) ** 2)
        steps.append((by, depth if i == count - 1 else size * (i + 1) / count))
    return _merged([(0.0, size / count / 2), *steps]) if steps[0][0] > LEAST_STEP else _merged(steps)


def _merged(steps: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Steps with as good as the same inset made one."""
    result: list[tuple[float, float]] = []
    for inset, top in steps:
        if result and inset - result[-1][0] < LEAST_STEP:
            result[-1] = (result[-1][0], top)
        else:
            result.append((inset, top))
    return result


def grown(shape: BaseGeometry, by: float, tolerance: float) -> BaseGeometry:
    """The shape grown by `by` mm; its outer corners round."""
    return shapely.buffer(shape, by, quad_segs=quarter_steps(by, tolerance), join_style="round")


def inset(shape: BaseGeometry, by: float, tolerance: float) -> BaseGeometry:
    """The shape shrunk by `by` mm; its inner corners round, its outer ones sharp."""
    if by <= 0:
        return shape
    return shapely.buffer(shape, -by, quad_segs=quarter_steps(by, tolerance), join_style="round")
