"""The base under the art."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import THREADS
from drelo.core.errors import Refusal

BaseShape = Literal["outline", "rectangle", "circle", "block", "none"]
MAX_MARGIN = 500.0
MAX_THICKNESS = 500.0
MAX_BLOCK = 2000.0


@dataclass(frozen=True)
class Base:
    """A plate under the art; lengths in mm.

    shape: `outline` follows the art's silhouette with its holes filled, `rectangle` and `circle` enclose it,
    `block` is a plain block round the art's middle.
    margin: how far it stands out. corner_radius: of the rectangle or block. block: its width and depth.
    keep_holes: an outline keeps the art's holes where the margin leaves them open.
    """

    shape: BaseShape = "outline"
    margin: float = 3.0
    thickness: float = 2.0
    corner_radius: float = 0.0
    colour: str = "#30343b"
    block: tuple[float, float] = (80.0, 60.0)
    keep_holes: bool = False


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

    art: all that is drawn; its parts may overlap. Raises Refusal with the field's path when a number is out of range.
    """
    if base.shape == "none":
        return shapely.Polygon()
    for name, value, top in (
        ("margin", base.margin, MAX_MARGIN),
        ("thickness", base.thickness, MAX_THICKNESS),
    ):
        if not math.isfinite(value) or abs(value) > top:
            raise Refusal(f"The base's {name} must be a number up to {top:g} mm.", f"base.{name}")
    if base.margin < 0:
        raise Refusal("The base's margin cannot be negative.", "base.margin")
    if base.thickness <= 0:
        raise Refusal('The base needs a thickness above 0, or choose the shape "none".', "base.thickness")
    if not 0 <= base.corner_radius <= MAX_MARGIN:
        raise Refusal(f"The base's corner radius must lie between 0 and {MAX_MARGIN:g} mm.", "base.corner_radius")
    if base.shape == "outline":
        whole = grown(art, base.margin, tolerance)
        # The closed gaps of a growth can enclose new holes: they are filled too.
        return whole if base.keep_holes else without_holes(whole)
    x0, y0, x1, y1 = art.bounds
    if base.shape == "rectangle":
        return rounded_box(
            (x0 - base.margin, y0 - base.margin, x1 + base.margin, y1 + base.margin), base.corner_radius, tolerance
        )
    if base.shape == "block":
        if not all(math.isfinite(v) and 0 < v <= MAX_BLOCK for v in base.block):
            raise Refusal(f"A block's sides must lie between 0 and {MAX_BLOCK:g} mm.", "base.block")
        x, y, (width, depth) = (x0 + x1) / 2, (y0 + y1) / 2, base.block
        return rounded_box((x - width / 2, y - depth / 2, x + width / 2, y + depth / 2), base.corner_radius, tolerance)
    (cx, cy), radius = smallest_circle(art)
    return disc(cx, cy, radius + base.margin, tolerance)


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
