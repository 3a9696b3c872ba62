"""The base under the art."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import THREADS
from drelo.core.errors import Refusal
from drelo.core.outline.outline import only_areas

BaseShape = Literal["outline", "rectangle", "circle", "block", "none"]
MAX_MARGIN = 500.0
MAX_THICKNESS = 500.0
MAX_BLOCK = 2000.0


@dataclass(frozen=True)
class Base:
    """A plate under the art; lengths in mm.

    shape: `outline` follows the art's silhouette with its holes filled, `rectangle` and `circle` enclose it,
    `block` is a plain block.
    margin: how far it stands out; negative, it is smaller than the art. corner_radius: of the rectangle or block.
    block: its width and depth. sides: width and depth of a rectangle, diameter: of a circle, instead of a margin.
    at: its middle, where it does not follow the art's. keep_holes: an outline keeps the art's holes where the margin
    leaves them open.
    """

    shape: BaseShape = "outline"
    margin: float = 3.0
    thickness: float = 2.0
    corner_radius: float = 0.0
    colour: str = "#30343b"
    block: tuple[float, float] = (80.0, 60.0)
    keep_holes: bool = False
    sides: tuple[float, float] | None = None
    diameter: float | None = None
    at: tuple[float, float] | None = None

    @property
    def size(self) -> tuple[float, float] | None:
        """Width and depth that do not hang on the art, mm."""
        if self.shape == "block":
            return self.block
        if self.shape == "rectangle":
            return self.sides
        if self.shape == "circle" and self.diameter is not None:
            return self.diameter, self.diameter
        return None

    @property
    def stands_alone(self) -> bool:
        """Whether it is there without any art."""
        return self.size is not None


def quarter_steps(radius: float, tolerance: float) -> int:
    """Chords in a quarter circle of `radius` that stay within `tolerance`; both mm."""
    if radius <= tolerance:
        return 2
    return max(2, math.ceil(math.pi / 4 / math.acos(1 - tolerance / radius)))


def grown(shape: BaseGeometry, margin: float, tolerance: float) -> BaseGeometry:
    """The shape, or the union of a collection, grown outward by `margin` mm, corners round."""
    parts = shapely.get_parts(shapely.get_parts(shape))
    if margin == 0:
        return shapely.union_all(parts)
    steps = quarter_steps(margin, tolerance)
    # Each part by itself is much quicker than all at once where there are many; neighbours are joined first.
    order = np.argsort(shapely.bounds(parts)[:, 0], kind="stable")

    def of_some(some: NDArray[np.object_]) -> BaseGeometry:
        return shapely.union_all(shapely.buffer(some, margin, quad_segs=steps))

    with ThreadPoolExecutor(THREADS) as threads:
        return shapely.union_all(list(threads.map(of_some, np.array_split(parts[order], THREADS))))


def without_holes(shape: BaseGeometry) -> BaseGeometry:
    """The shape with every hole filled."""
    if not shapely.get_num_interior_rings(shapely.get_parts(shape)).any():
        return shape
    return shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(shape) if not part.is_empty])


def base_plate(base: Base, art: BaseGeometry, tolerance: float) -> BaseGeometry:
    """Footprint of the base, mm; empty for shape `none`.

    art: all that is drawn; its parts may overlap; it may be empty under a base that has a size of its own.
    Raises Refusal with the field's path when a number is out of range.
    """
    if base.shape == "none":
        return shapely.Polygon()
    _check(base)
    if base.size is not None:
        x, y = base.at or _middle(base, art)
        width, depth = base.size
        if base.shape == "circle":
            return disc(x, y, width / 2, tolerance)
        box = (x - width / 2, y - depth / 2, x + width / 2, y + depth / 2)
        return rounded_box(box, base.corner_radius, tolerance)
    plate = _round_art(base, art, tolerance)
    if plate.is_empty:
        raise Refusal("base.margin-too-small", "base.margin", margin=base.margin)
    return plate


def _check(base: Base) -> None:
    for name, value, top in (
        ("margin", base.margin, MAX_MARGIN),
        ("thickness", base.thickness, MAX_THICKNESS),
    ):
        if not math.isfinite(value) or abs(value) > top:
            raise Refusal("base.out-of-range", f"base.{name}", name=name, top=top)
    if base.thickness <= 0:
        raise Refusal("base.no-thickness", "base.thickness")
    if not 0 <= base.corner_radius <= MAX_MARGIN:
        raise Refusal("base.corner-radius", "base.corner_radius", most=MAX_MARGIN)
    if base.size is not None and not all(math.isfinite(v) and 0 < v <= MAX_BLOCK for v in base.size):
        field = {"block": "block", "rectangle": "sides"}.get(base.shape, "diameter")
        raise Refusal("base.sides", f"base.{field}", most=MAX_BLOCK)


def _middle(base: Base, art: BaseGeometry) -> tuple[float, float]:
    """Where the middle of a base of its own size lies: a circle's in the circle round the art, else in its box."""
    if art.is_empty:
        return 0.0, 0.0
    if base.shape == "circle":
        return smallest_circle(art)[0]
    x0, y0, x1, y1 = art.bounds
    return (x0 + x1) / 2, (y0 + y1) / 2


def _round_art(base: Base, art: BaseGeometry, tolerance: float) -> BaseGeometry:
    """A base that stands out round the art by its margin; empty where a negative one leaves nothing."""
    if base.shape == "outline":
        whole = grown(art, base.margin, tolerance) if base.margin >= 0 else shrunk(art, -base.margin, tolerance)
        # The closed gaps of a growth can enclose new holes: they are filled too.
        return whole if base.keep_holes else without_holes(whole)
    x0, y0, x1, y1 = art.bounds
    if base.shape == "rectangle":
        box = (x0 - base.margin, y0 - base.margin, x1 + base.margin, y1 + base.margin)
        if box[2] <= box[0] or box[3] <= box[1]:
            return shapely.Polygon()
        plate = rounded_box(box, base.corner_radius, tolerance)
    else:
        (x, y), radius = smallest_circle(art)
        if radius + base.margin <= 0:
            return shapely.Polygon()
        plate = disc(x, y, radius + base.margin, tolerance)
    if base.at is None:
        return plate
    x, y = (plate.bounds[0] + plate.bounds[2]) / 2, (plate.bounds[1] + plate.bounds[3]) / 2
    return affinity.translate(plate, base.at[0] - x, base.at[1] - y)


def shrunk(shape: BaseGeometry, by: float, tolerance: float) -> BaseGeometry:
    """The shape, its holes filled, shrunk by so many mm."""
    whole = without_holes(shapely.union_all(shapely.get_parts(shapely.get_parts(shape))))
    return only_areas(shapely.buffer(whole, -by, quad_segs=quarter_steps(by, tolerance)))


def rounded_box(box: tuple[float, float, float, float], radius: float, tolerance: float) -> BaseGeometry:
    """A box (min x, min y, max x, max y) with corners of a radius, or of the largest one that it has room for."""
    x0, y0, x1, y1 = box
    radius = min(radius, (x1 - x0) / 2, (y1 - y0) / 2)
    if radius <= tolerance:
        return shapely.box(*box)
    # The centres of the corner arcs; with the largest radius they fall on a line or into one point.
    centres = [(x, y) for x in (x0 + radius, x1 - radius) for y in (y0 + radius, y1 - radius)]
    return shapely.buffer(shapely.MultiPoint(centres).convex_hull, radius, quad_segs=quarter_steps(radius, tolerance))


def disc(x: float, y: float, radius: float, tolerance: float) -> BaseGeometry:
    """A round area, its border on the circle at the chords' ends."""
    found: BaseGeometry = discs(np.array([[x, y]]), radius, tolerance)[0]
    return found


def discs(centres: NDArray[np.float64], radius: float, tolerance: float) -> NDArray[np.object_]:
    """Round areas of one radius about centres of shape (n, 2), mm."""
    count = 4 * quarter_steps(radius, tolerance)
    angle = 2 * np.pi * np.arange(count) / count
    ring = radius * np.column_stack([np.cos(angle), np.sin(angle)])
    return np.asarray(shapely.polygons(centres[:, None] + ring), object)


def mirrored(shape: BaseGeometry) -> BaseGeometry:
    """Left to right."""
    return shapely.transform(shape, lambda xy: xy * np.array([-1.0, 1.0]))


def smallest_circle(art: BaseGeometry) -> tuple[tuple[float, float], float]:
    """Centre and radius of the smallest circle round the art, mm."""
    circle = shapely.minimum_bounding_circle(art)
    centre = circle.centroid
    radius = float(shapely.minimum_bounding_radius(art))
    return (centre.x, centre.y), radius
