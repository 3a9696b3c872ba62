"""Form nameplate: letters over a backing that is always one part, with a loop, screw holes, a frame, a foot."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import Base, BaseShape, base_plate, disc, discs, grown, without_holes
from drelo.core.form.columns import Band, Column, Design, Filament
from drelo.core.form.relief import INLAY_DEPTH, Part, column_of, holes_of, rooted
from drelo.core.outline.joining import bridge, joining_growth, links
from drelo.core.outline.outline import only_areas
from drelo.core.remark import Remark

Join = Literal["grow", "tie"]
FixingKind = Literal["none", "loop", "screws"]
Side = Literal["auto", "left", "right", "top", "bottom"]
# Where parts of the backing have grown together they are at least so wide, mm.
NECK = 2.0
# Places for a loop are judged on shapes so near to the true ones, mm.
ROUGHLY = 0.05
# Places round the backing that are tried for a loop.
PLACES = 240
# A foot: its length and height along the table, how far from the plate it lies, what its slot leaves free, mm.
FOOT_LENGTH, FOOT_HEIGHT, FOOT_APART, FOOT_FREE, FOOT_THICK = 32.0, 16.0, 4.0, 0.25, 10.0


@dataclass(frozen=True)
class Fixing:
    """loop: a key loop, `inner` wide with a wall. screws: two holes `inner` wide in ears. side: where the loop sits."""

    kind: FixingKind = "loop"
    inner: float = 4.0
    wall: float = 2.5
    side: Side = "auto"


@dataclass(frozen=True)
class Nameplate:
    """Lengths in mm.

    sides, diameter: of the backing, instead of a margin. at: its middle, where it does not follow the letters'.
    letters: how high letters stand over the backing, where nothing else is said. join: how loose letters become one
    part. frame_width, frame_height: of a rim along the backing's edge. foot: degrees by which the plate leans back
    on two feet beside it; 0 for none.
    """

    shape: BaseShape = "outline"
    margin: float = 3.0
    corner_radius: float = 4.0
    thickness: float = 2.4
    letters: float = 1.8
    join: Join = "grow"
    tie_width: float = 4.0
    fixing: Fixing = Fixing()
    frame_width: float = 0.0
    frame_height: float = 1.8
    foot: float = 0.0
    colour: str = "#30343b"
    sides: tuple[float, float] | None = None
    diameter: float | None = None
    at: tuple[float, float] | None = None


def nameplate(parts: Sequence[Part], numbers: Nameplate, tolerance: float) -> Design:
    """Design of a nameplate; later parts cover earlier ones.

    Raises Refusal with the field's path.
    """
    through = holes_of(parts)
    parts = [p for p in parts if not p.hole]
    letters = shapely.geometrycollections([p.shape for p in parts])
    if not letters.area > 0:
        raise Refusal("nameplate.no-letters", "art")
    _check(numbers, parts)
    remarks: list[Remark] = []
    backing = backing_of(letters, numbers, tolerance, remarks)
    holes: BaseGeometry = shapely.Polygon()
    plain = backing
    if numbers.fixing.kind == "loop":
        outer, holes = loop(backing, letters, numbers.fixing, tolerance, remarks)
        backing = shapely.union(backing, outer)
    elif numbers.fixing.kind == "screws":
        outer, holes = screws(backing, numbers.fixing, tolerance)
        backing = shapely.union(backing, outer)
    holes = shapely.union(holes, through)
    bottom, top = 0.0, numbers.thickness
    colours = list(dict.fromkeys([numbers.colour, *(p.colour for p in parts)]))
    number = {colour: i for i, colour in enumerate(colours)}
    layers: list[BaseGeometry] = [backing]
    columns: list[Column] = [(Band(bottom, top, 0),)]
    owners = [-1]
    standing = list(parts)
    if numbers.frame_width > 0:
        # Where letters reach the rim they win, as they lie on top.
        rim = shapely.difference(plain, shapely.buffer(plain, -numbers.frame_width))
        standing.insert(0, Part(rim, numbers.frame_height, parts[0].colour, ""))
    inlay = min(INLAY_DEPTH, top)
    stacks = [column_of(p, top, 0, number[p.colour], inlay) for p in standing]
    columns += rooted(standing, stacks, top, inlay)
    layers += [p.shape for p in standing]
    owners += [p.number for p in standing]
    if not holes.is_empty:
        layers.append(holes)
        columns.append(())
    filaments = [Filament(colour, name) for colour, name in zip(colours, _names(parts, colours), strict=True)]
    if numbers.foot:
        for bracket in feet(backing, numbers):
            layers.append(bracket)
            columns.append((Band(0.0, FOOT_THICK, len(filaments)),))
        filaments.append(Filament(numbers.colour, "feet", apart=True))
        remarks.append(Remark("Two feet are printed beside the plate. Slide the plate into their slots."))
    used = sorted({band.filament for column in columns for band in column})
    place = {old: new for new, old in enumerate(used)}
    return Design(
        tuple(layers),
        tuple(tuple(replace(b, filament=place[b.filament]) for b in column) for column in columns),
        tuple(filaments[i] for i in used),
        tuple(remarks),
        owners=(*owners, *([-1] * (len(layers) - len(owners)))),
        footprint=shapely.difference(backing, holes),
        datum=numbers.thickness,
    )


def _names(parts: Sequence[Part], colours: Sequence[str]) -> list[str]:
    """What the body of each colour is called; the first one is the backing's."""
    names = ["backing"]
    for colour in colours[1:]:
        own = list(dict.fromkeys(p.name for p in parts if p.colour == colour and p.name))
        names.append(", ".join(own[:4]) or "letters")
    return names


def _check(numbers: Nameplate, parts: Sequence[Part]) -> None:
    if numbers.shape == "none":
        raise Refusal("nameplate.no-backing", "nameplate.shape")
    ranges = (
        ("thickness", numbers.thickness, 0.2, 100.0),
        ("letters", numbers.letters, -100.0, 100.0),
        ("tie_width", numbers.tie_width, 0.4, 50.0),
        ("frame_width", numbers.frame_width, 0.0, 50.0),
        ("frame_height", numbers.frame_height, 0.1, 50.0),
        ("fixing.inner", numbers.fixing.inner, 0.5, 50.0),
        ("fixing.wall", numbers.fixing.wall, 0.4, 50.0),
        ("foot", numbers.foot, 0.0, 60.0),
    )
    for name, value, low, high in ranges:
        if not (math.isfinite(value) and low <= value <= high):
            raise Refusal("nameplate.out-of-range", f"nameplate.{name}", name=name, low=low, high=high)
    for part in parts:
        if part.height != "through" and not (math.isfinite(part.height) and abs(part.height) <= 500):
            raise Refusal("nameplate.height", part.field)
        if part.height != "through" and part.height < 0 and -part.height >= numbers.thickness:
            raise Refusal("nameplate.sunk-through", part.field, depth=-part.height, thickness=numbers.thickness)


def backing_of(letters: BaseGeometry, numbers: Nameplate, tolerance: float, remarks: list[Remark]) -> BaseGeometry:
    """The backing's footprint, one connected part. letters: they may overlap."""
    base = Base(
        numbers.shape,
        numbers.margin,
        numbers.thickness,
        numbers.corner_radius,
        numbers.colour,
        sides=numbers.sides,
        diameter=numbers.diameter,
        at=numbers.at,
    )
    plate = base_plate(base, letters, tolerance)
    if shapely.get_num_geometries(plate) < 2:
        return plate
    if numbers.join == "tie":
        found = links(list(shapely.get_parts(plate)))
        ties = [bridge(link, numbers.tie_width, numbers.margin + numbers.tie_width / 2) for link in found]
        remarks.append(Remark(f"{len(ties)} ties hold the backing together; the longest is {found[-1].length:.2f} mm."))
        return without_holes(shapely.union_all([plate, *ties]))
    letters = shapely.union_all(shapely.get_parts(letters))
    need = joining_growth(list(shapely.get_parts(letters)))
    margin = max(math.hypot(need, NECK / 2), numbers.margin)
    # Chords cut a little off every round corner.
    plate = without_holes(grown(without_holes(letters), margin + tolerance, tolerance))
    remarks.append(
        Remark(
            f"The backing's margin is {margin:.2f} mm instead of {numbers.margin:g} mm, to hold all letters together."
        )
    )
    return plate


def loop(
    backing: BaseGeometry, letters: BaseGeometry, fixing: Fixing, tolerance: float, remarks: list[Remark]
) -> tuple[BaseGeometry, BaseGeometry]:
    """A ring with its hole, where the backing holds it best: its body, and the hole."""
    outer, inner = fixing.inner / 2 + fixing.wall, fixing.inner / 2
    centres = _places(backing, inner + fixing.wall * 0.25, fixing.side)
    bodies, holes = discs(centres, outer, ROUGHLY), discs(centres, inner + 0.4, ROUGHLY)
    rough = shapely.simplify(backing, ROUGHLY)
    clear = np.ones(len(centres), bool)
    clear[shapely.STRtree(shapely.get_parts(letters)).query(holes, predicate="intersects")[0]] = False
    x0, y0, x1, y1 = backing.bounds
    # Of places that hold as well, a plate hangs best from its top, or from a left end that is as good.
    level = (centres[:, 1] - y0) / max(y1 - y0, 1e-9)
    middle = 1 - np.abs((centres[:, 0] - (x0 + x1) / 2) / max((x1 - x0) / 2, 1e-9))
    end = (x1 - centres[:, 0]) / max(x1 - x0, 1e-9)
    liking = np.maximum(level * middle, end * (1 - np.abs(2 * level - 1)))
    best, held = 0, 0.0
    most = -1.0
    # How well a place holds is the costly part: the best liked ones come first, and what cannot win is left out.
    for place in np.lexsort([-liking, ~clear]):
        if not clear[place] or 1 + 0.5 * liking[place] <= most:
            break
        area = float(shapely.intersection(bodies[place], rough).area)
        score = min(area / (0.4 * bodies[place].area), 1.0) + 0.5 * float(liking[place])
        if score > most:
            best, held, most = int(place), area, score
    if not clear[best]:
        remarks.append(
            Remark("The key loop cuts into a letter. Give the backing a wider margin, or choose another side.")
        )
        held = float(shapely.intersection(bodies[best], rough).area)
    if held < 1.2 * fixing.wall**2:
        remarks.append(
            Remark("The key loop has little to hold on to. Give the backing a wider margin, or choose another side.")
        )
    x, y = centres[best].tolist()
    return disc(x, y, outer, tolerance), disc(x, y, inner, tolerance)


def _places(backing: BaseGeometry, away: float, side: Side) -> NDArray[np.float64]:
    """Points that lie `away` outside the backing, on the asked side; shape (n, 2)."""
    ring = shapely.get_parts(shapely.buffer(backing, away))[0].exterior
    at = np.linspace(0, ring.length, PLACES, endpoint=False)
    points = shapely.get_coordinates(shapely.line_interpolate_point(ring, at))
    x0, y0, x1, y1 = ring.bounds
    share = {
        "left": (x1 - points[:, 0]) / (x1 - x0),
        "right": (points[:, 0] - x0) / (x1 - x0),
        "top": (points[:, 1] - y0) / (y1 - y0),
        "bottom": (y1 - points[:, 1]) / (y1 - y0),
    }.get(side)
    return points if share is None else points[share >= min(0.85, float(share.max()))]


def screws(backing: BaseGeometry, fixing: Fixing, tolerance: float) -> tuple[BaseGeometry, BaseGeometry]:
    """Two ears with holes at the left and right end: their bodies, and the holes."""
    outer, inner = fixing.inner / 2 + fixing.wall, fixing.inner / 2
    x0, y0, x1, y1 = backing.bounds
    level = (y0 + y1) / 2
    row = shapely.intersection(backing, shapely.LineString([(x0 - 1, level), (x1 + 1, level)]))
    left, right = (row.bounds[0], row.bounds[2]) if not row.is_empty else (x0, x1)
    places = [(left - inner, level, 1.0), (right + inner, level, -1.0)]
    bodies = []
    for x, y, inward in places:
        bodies.append(disc(x, y, outer, tolerance))
        # A neck as wide as the ear, into the backing.
        bodies.append(shapely.box(*sorted_box(x, y - outer, x + inward * 2 * outer, y + outer)))
    return shapely.union_all(bodies), shapely.union_all([disc(x, y, inner, tolerance) for x, y, _ in places])


def sorted_box(x0: float, y0: float, x1: float, y1: float) -> tuple[float, float, float, float]:
    return min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)


def feet(backing: BaseGeometry, numbers: Nameplate) -> list[BaseGeometry]:
    """Side views of two feet with a slot in which the plate leans back; they are printed lying beside it."""
    x0, y0, _, _ = backing.bounds
    body = shapely.Polygon([(0, 0), (FOOT_LENGTH, 0), (FOOT_LENGTH, 4), (14, FOOT_HEIGHT), (4, FOOT_HEIGHT), (0, 8)])
    slot = shapely.box(0, 0, numbers.thickness + FOOT_FREE, 60)
    slot = affinity.translate(affinity.rotate(slot, -numbers.foot, origin=(0, 0)), 7, 4)
    foot = max(shapely.get_parts(only_areas(shapely.difference(body, slot))), key=lambda g: g.area)
    whole = shapely.difference(body, slot)
    foot = whole if shapely.get_num_geometries(whole) == 1 else foot
    low = y0 - FOOT_APART - FOOT_HEIGHT
    return [affinity.translate(foot, x0 + i * (FOOT_LENGTH + FOOT_APART), low) for i in range(2)]
