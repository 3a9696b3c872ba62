"""What a stamp is held by: in one with its plate, or a part of its own with a peg that goes into the plate's back."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import disc
from drelo.core.form.columns import Band, Column, Level
from drelo.core.outline.outline import only_areas

GripKind = Literal["none", "knob", "bar", "socket"]
Joint = Literal["joined", "peg"]
MAX_GRIP = 200.0
# A socket or a peg's hole leaves so much of the plate over it, mm.
ROOF = 0.8
# A hole less deep than this holds no peg, mm.
LEAST_PEG = 1.0
# A peg is as wide as this share of its grip, and no wider than this, mm: over so wide a hole a print still bridges.
PEG_SHARE, WIDEST_PEG = 0.5, 8.0
# A knob's peg is flattened by this share on two sides, so that the knob does not turn.
FLATTENED = 0.75
# The peg of a bar is as long as this share of the bar.
PEG_LENGTH = 0.6
# So much of the plate stays round a peg's hole, mm.
AROUND = 1.2
# How far from the plate a grip of its own is laid, mm.
APART = 5.0
# A knob widens to the plate at 45 degrees, which prints without supports, in steps of so many layers.
FLARE_LAYERS = 2


@dataclass(frozen=True)
class Grip:
    """What the stamp is held by; lengths in mm.

    knob: a round stem that widens towards the plate. bar: the same, long. socket: a round hole for a peg.
    diameter: of the knob, the bar's width, or the hole. height: of knob and bar, or the hole's depth.
    length: of the bar. joint: whether knob and bar are one with the plate, or parts of their own. peg: how wide the peg
    between them is, None for as wide as is usual. clearance: between peg and hole, all round.
    """

    kind: GripKind = "none"
    diameter: float = 16.0
    height: float = 18.0
    length: float = 40.0
    joint: Joint = "joined"
    peg: float | None = None
    clearance: float = 0.15

    @property
    def is_apart(self) -> bool:
        return self.kind in ("knob", "bar") and self.joint == "peg"

    @property
    def peg_width(self) -> float:
        """mm."""
        return min(self.diameter * PEG_SHARE, WIDEST_PEG) if self.peg is None else self.peg


NO_GRIP = Grip()


def check_grip(grip: Grip, thickness: float) -> None:
    """Raises Refusal when a plate of a thickness (mm) cannot have such a grip."""
    if grip.kind == "none":
        return
    for name, value in (("diameter", grip.diameter), ("height", grip.height), ("length", grip.length)):
        if not (math.isfinite(value) and 1 <= value <= MAX_GRIP):
            raise Refusal("grip.out-of-range", f"stamp.grip.{name}", name=name, most=MAX_GRIP)
    if grip.kind == "socket" and grip.height > thickness - ROOF:
        raise Refusal(
            "grip.socket-too-deep",
            "stamp.grip.height",
            height=grip.height,
            thickness=thickness,
            deepest=max(thickness - ROOF, 0),
        )
    if grip.is_apart and thickness < ROOF + LEAST_PEG:
        raise Refusal("grip.plate-too-thin", "stamp.thickness", thickness=thickness, least=ROOF + LEAST_PEG)
    if grip.is_apart and grip.peg_width > grip.diameter:
        raise Refusal("grip.peg-too-wide", "stamp.grip.peg", peg_width=grip.peg_width)


def joined(grip: Grip, plate: BaseGeometry, layer: float, tolerance: float) -> list[Level]:
    """Shapes that stand behind the plate, and how far down they reach, the widest first."""
    if grip.kind not in ("knob", "bar") or grip.is_apart:
        return []
    return _levels(grip, plate, (plate.centroid.x, plate.centroid.y), layer, tolerance)


@dataclass(frozen=True, eq=False)
class OwnGrip:
    """A grip of its own. against: where it meets the plate; hole: for its peg, in the plate; deep: mm.

    layers, columns: of the grip as it is printed beside the plate, its peg up.
    """

    against: BaseGeometry
    hole: BaseGeometry
    deep: float
    layers: tuple[BaseGeometry, ...]
    columns: tuple[Column, ...]


def own_grip(
    grip: Grip,
    plate: BaseGeometry,
    thickness: float,
    layer: float,
    tolerance: float,
    beside: BaseGeometry,
    filament: int,
) -> OwnGrip:
    """A knob or bar apart from its plate. beside: what it is laid beside. Raises Refusal where no peg finds room."""
    hole_round = grip.peg_width / 2 + grip.clearance
    at = _seat(grip, plate, hole_round)
    peg = _peg(grip, at, 0.0, tolerance)
    hole = _peg(grip, at, grip.clearance, tolerance)
    if not plate.buffer(-AROUND).covers(hole):
        raise Refusal("grip.no-room", "stamp.grip.peg", peg_width=grip.peg_width)
    deep = thickness - ROOF
    levels = _levels(grip, plate, at, layer, tolerance)
    # Turned over to stand on the end that is held, left stays left, and up becomes down.
    shapes = [affinity.scale(shape, 1, -1, origin=(*at, 0)) for shape, _ in levels]
    spans: list[Column] = [(Band(grip.height - down, grip.height, filament),) for _, down in levels]
    # The stem goes through all of them.
    shapes.append(affinity.scale(peg, 1, -1, origin=(*at, 0)))
    # Its end lies on a layer.
    end = math.floor((grip.height + deep - grip.clearance) / layer + 1e-9) * layer
    spans.append((Band(0.0, end, filament),))
    move = _beside(beside, shapely.union_all(shapes))
    return OwnGrip(
        shapely.union_all([shape for shape, _ in levels]),
        hole,
        deep,
        tuple(affinity.translate(shape, *move) for shape in shapes),
        tuple(spans),
    )


def _seat(grip: Grip, plate: BaseGeometry, radius: float) -> tuple[float, float]:
    """Where the grip's middle lies: the plate's own, or where it is widest when that lies outside of it."""
    middle = plate.centroid
    if plate.buffer(-AROUND).covers(middle.buffer(radius)) or grip.kind == "bar":
        return middle.x, middle.y
    x, y = shapely.get_coordinates(shapely.maximum_inscribed_circle(np.array([plate]), 0.1))[0].tolist()
    return x, y


def _beside(beside: BaseGeometry, shape: BaseGeometry) -> tuple[float, float]:
    """The move that brings a shape beside another one, on the side where both together are nearest to a square."""
    x0, y0, x1, y1 = beside.bounds
    a0, b0, a1, b1 = shape.bounds
    if x1 - x0 <= y1 - y0:
        return x1 + APART - a0, (y0 + y1 - b0 - b1) / 2
    return (x0 + x1 - a0 - a1) / 2, y0 - APART - b1


def _levels(grip: Grip, plate: BaseGeometry, at: tuple[float, float], layer: float, tolerance: float) -> list[Level]:
    flare = min(grip.height * 0.6, grip.diameter / 2)
    count = max(1, math.ceil(flare / (FLARE_LAYERS * layer)))
    result = []
    for i in range(count):
        by = flare * (1 - (i + 0.5) / count)
        result.append((_handle(grip, *at, by, tolerance), flare * (i + 1) / count))
    stem = _handle(grip, *at, 0.0, tolerance)
    result.append((stem, grip.height))
    reach = shapely.union(plate, stem)
    return [(only_areas(shapely.intersection(shape, reach)), down) for shape, down in result]


def _handle(grip: Grip, x: float, y: float, by: float, tolerance: float) -> BaseGeometry:
    radius = grip.diameter / 2 + by
    if grip.kind == "knob":
        return disc(x, y, radius, tolerance)
    return _stadium(x, y, radius, max(grip.length - grip.diameter, 0.0) / 2, tolerance)


def _peg(grip: Grip, at: tuple[float, float], by: float, tolerance: float) -> BaseGeometry:
    """The peg seen from above, grown all round."""
    radius = grip.peg_width / 2 + by
    if grip.kind == "bar":
        half = max(grip.length * PEG_LENGTH - grip.peg_width, 0.0) / 2
        return _stadium(*at, radius, half, tolerance)
    low = FLATTENED * grip.peg_width / 2 + by
    flat = shapely.box(at[0] - radius, at[1] - low, at[0] + radius, at[1] + low)
    return only_areas(shapely.intersection(disc(*at, radius, tolerance), flat))


def _stadium(x: float, y: float, radius: float, half: float, tolerance: float) -> BaseGeometry:
    return shapely.union_all(
        [
            disc(x - half, y, radius, tolerance),
            disc(x + half, y, radius, tolerance),
            shapely.box(x - half, y - radius, x + half, y + radius),
        ]
    )
