"""Line drawings of known middle lines and widths."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from benchmarks.tracing.render import coverage
from benchmarks.tracing.truth import arc_ring
from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.outline import Outline

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Linework:
    """Lines (contours and widths) in any unit, y down, with round or flat ends and mitred or round corners."""

    name: str
    lines: tuple[tuple[Contour, float], ...]
    cap: str = "round"
    join: str = "round"

    def fitted(self, side: int) -> tuple[Linework, int, int]:
        """In px on a picture whose longer side is `side`, and the picture's width and height."""
        boxes = np.array([c.bounds for c, _ in self.lines])
        low, high = boxes[:, :2].min(0), boxes[:, 2:].max(0)
        pad = max(w for _, w in self.lines) * 1.5
        scale = side / (float((high - low).max()) + 2 * pad)
        dx, dy = -low[0] * scale + pad * scale + 0.17, -low[1] * scale + pad * scale - 0.23
        moved = tuple((c.transformed(scale, dx, dy), w * scale) for c, w in self.lines)
        width, height = (int(np.ceil(v)) for v in (high - low + 2 * pad) * scale)
        return Linework(self.name, moved, self.cap, self.join), width, height

    def cover(self, width: int, height: int) -> Array:
        bands = []
        for contour, wide in self.lines:
            points = contour.flattened(0.005)
            run = shapely.LinearRing(points) if contour.closed else shapely.LineString(points)
            bands.append(
                shapely.buffer(run, wide / 2, quad_segs=40, cap_style=self.cap, join_style=self.join, mitre_limit=5)
            )
        area = shapely.union_all(np.array(bands))
        outlines = []
        for part in shapely.get_parts(area):
            rings = [polygon(shapely.get_coordinates(r)[:-1]) for r in shapely.get_rings(part)]
            outlines.append(Outline(rings[0], tuple(rings[1:])))
        return coverage(outlines, width, height)


def path(*points: tuple[float, float]) -> Contour:
    """Straight lines through points."""
    p = np.array(points, float)
    step = np.diff(p, axis=0) / 3
    return Contour(np.stack([p[:-1], p[:-1] + step, p[1:] - step, p[1:]], 1), np.ones(len(p) - 1, bool), False)


def curve(*points: tuple[float, float]) -> Contour:
    """A smooth open curve through points."""
    p = np.array(points, float)
    tangent = np.gradient(p, axis=0) / 3
    cubics = np.stack([p[:-1], p[:-1] + tangent[:-1], p[1:] - tangent[1:], p[1:]], 1)
    return Contour(cubics, np.zeros(len(cubics), bool), False)


def barrow() -> Linework:
    """A wheelbarrow: tray, wheel with spokes, leg and handle; T joints, crossings and a loop."""
    return Linework(
        "barrow",
        (
            (path((60, 120), (330, 120), (270, 240), (110, 240), (60, 120)), 9),
            (path((20, 96), (60, 120)), 9),
            (path((150, 240), (180, 320)), 9),
            (path((110, 240), (330, 290)), 9),
            (arc_ring(380, 290, 52, 52), 9),
            (path((345, 255), (415, 325)), 6),
            (path((415, 255), (345, 325)), 6),
            (curve((90, 118), (140, 60), (200, 84), (250, 40), (300, 118)), 9),
        ),
    )


def weave() -> Linework:
    """Crossing waves and dashes."""
    return Linework(
        "weave",
        (
            (curve((20, 60), (90, 30), (160, 90), (240, 40), (320, 70)), 7),
            (curve((20, 150), (100, 190), (180, 130), (260, 180), (320, 150)), 7),
            (curve((60, 10), (90, 80), (60, 150), (100, 220)), 7),
            (curve((240, 10), (210, 90), (260, 150), (230, 220)), 7),
            *((path((30 + 50 * k, 250), (58 + 50 * k, 250)), 7.0) for k in range(6)),
        ),
    )


def frames() -> Linework:
    """Corners: mitred boxes and a zigzag with flat ends."""
    zigzag = [(30.0 + 40 * k, 250.0 if k % 2 else 210.0) for k in range(8)]
    return Linework(
        "frames",
        (
            (polygon(np.array([[30, 30], [310, 30], [310, 180], [30, 180.0]])), 10),
            (polygon(np.array([[80, 60], [180, 70], [150, 150.0]])), 8),
            (path(*zigzag), 10),
        ),
        "flat",
        "mitre",
    )


def all_linework() -> Sequence[Linework]:
    return (barrow(), weave(), frames())


def jumble(seed: int) -> Linework:
    """Lines, corners, curves and rings anywhere, over each other as they come, most of one width."""
    random = np.random.default_rng(seed)
    usual = random.uniform(5, 10)
    lines: list[tuple[Contour, float]] = []
    for _ in range(int(random.integers(3, 8))):
        kind = random.random()
        x, y = random.uniform(20, 380, 2)
        width = usual if random.random() < 0.8 else random.uniform(4, 11)
        if kind < 0.6:
            lines.append((path(*random.uniform(20, 380, (2 if kind < 0.4 else 3, 2))), width))
        elif kind < 0.85:
            count, angle, half = int(random.integers(4, 6)), random.uniform(0, 2 * np.pi), random.uniform(80, 160)
            along = np.linspace(-half, half, count)[:, None] * [np.cos(angle), np.sin(angle)]
            points = along + np.array([x, y]) + random.normal(0, 25, (count, 2))
            lines.append((curve(*points), width))
        else:
            radius = random.uniform(30, 80)
            lines.append((arc_ring(x, y, radius, radius * random.uniform(0.7, 1.3)), width))
    return Linework(f"jumble {seed}", tuple(lines), *random.choice([("round", "round"), ("flat", "mitre")]))
