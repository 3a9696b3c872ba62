"""Form stamp: a mirrored face of one height on a backing plate, with a grip behind it or laid beside it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import THREADS
from drelo.core.errors import Refusal
from drelo.core.form.base import Base, BaseShape, base_plate, disc, mirrored
from drelo.core.form.checks import narrow_places
from drelo.core.form.columns import Design, Filament, Level, crossed
from drelo.core.form.edges import Edge, profile
from drelo.core.form.grip import NO_GRIP, ROOF, Grip, OwnGrip, check_grip, joined, own_grip
from drelo.core.outline.outline import only_areas
from drelo.core.region.arrangement import MAX_FACES
from drelo.core.remark import Remark

NOTHING: BaseGeometry = shapely.Polygon()
# Lines thinner than this do not stand, gaps narrower than this ink, mm.
LEAST_LINE, LEAST_GAP = 0.8, 0.6
# A background less deep than this takes up ink and prints, mm.
LEAST_DEPTH = 1.2
# What the draft leaves of a gap between neighbours, mm.
KEPT_GAP = 0.3
# How far a step of a draft reaches under the face, so that no slit is left beside it, mm.
UNDER_FACE = 0.02
# Chord tolerance of the steps of a draft, against how far one goes out.
STEP_CHORD = 0.25
# The mark on the back: how large it is against the plate, at most how large, how deep, and how wide its line is, mm.
MARK_SHARE, MARK_MOST, MARK_DEPTH, MARK_LINE = 0.22, 8.0, 0.6, 0.8
# What stands inside of the mark's outline is at least so large, mm².
LEAST_INSIDE = 4.0


@dataclass(frozen=True)
class Stamp:
    """Lengths in mm. draft: degrees by which the artwork widens from its face down.

    sides, diameter: of the plate, instead of a margin. at: its middle, where it does not follow the art's.

    fit: a box (x, y, z) that the whole must fit in. mark: a triangle on the back that points to the print's top.
    """

    shape: BaseShape = "outline"
    margin: float = 3.0
    corner_radius: float = 0.0
    thickness: float = 3.2
    depth: float = 2.5
    draft: float = 8.0
    grip: Grip = NO_GRIP
    mark: bool = True
    fit: tuple[float, float, float] | None = None
    colour: str = "#30343b"
    layer: float = 0.2
    sides: tuple[float, float] | None = None
    diameter: float | None = None
    at: tuple[float, float] | None = None


def stamp(art: Sequence[BaseGeometry], numbers: Stamp, tolerance: float, holes: BaseGeometry = NOTHING) -> Design:
    """Design of a stamp that prints the art as drawn, face up.

    art: what is inked, mm, y up. holes: what goes through everything. Raises Refusal with the field's path.
    """
    inked = _without(shapely.union_all(list(art)), holes)
    if not inked.area > 0:
        raise Refusal("stamp.no-outline", "art")
    _check(numbers)
    face = mirrored(inked)
    plate = base_plate(_plate(numbers), face, tolerance)
    remarks: list[Remark] = []
    grip = joined(numbers.grip, plate, numbers.layer, tolerance)
    own = _own_grip(numbers, plate, face, tolerance)
    lift = numbers.grip.height if grip else 0.0
    front = lift + numbers.thickness
    tops = [(plate, front)]
    tops += [(shape, front + top) for shape, top in _drafted(face, plate, numbers)[:-1]]
    # The face itself stands a region a layer, so that each can be told from the others.
    owners = [-1] * len(tops) + list(range(len(art)))
    tops += [(mirrored(shape), front + numbers.depth) for shape in art]
    floors = [(shape, lift - down) for shape, down in grip]
    floors += [(shape, lift + deep) for shape, deep in _cuts(numbers, plate, grip, own, tolerance, remarks)]
    if grip:
        # A grip that stands out beyond a small plate ends below it.
        tops.insert(0, (shapely.union_all([shape for shape, _ in grip]), lift))
        owners.insert(0, -1)
    layers, columns, owners_of_layers = crossed(tops, floors, lift, owners=owners)
    if not holes.is_empty:
        layers, columns = (*layers, mirrored(holes)), (*columns, ())
        owners_of_layers = (*owners_of_layers, -1)
    remarks += _remarks(inked, numbers, plate, grip)
    _fits(numbers, plate, front + numbers.depth + (numbers.grip.height if own else 0.0))
    filaments = [Filament(numbers.colour, "stamp")]
    if own:
        layers, columns = (*layers, *own.layers), (*columns, *own.columns)
        owners_of_layers = (*owners_of_layers, *[-1] * len(own.layers))
        filaments.append(Filament(numbers.colour, numbers.grip.kind, apart=True))
        remarks.append(
            Remark(f"The {numbers.grip.kind} is printed beside the stamp. Press or glue its peg into the back.")
        )
    footprint = _without(mirrored(plate), holes)
    return Design(
        layers, columns, tuple(filaments), tuple(remarks), inked, owners=owners_of_layers, footprint=footprint
    )


def _without(area: BaseGeometry, holes: BaseGeometry) -> BaseGeometry:
    return area if holes.is_empty else shapely.difference(area, holes)


def _plate(numbers: Stamp) -> Base:
    """The backing plate, where the face is mirrored."""
    at = None if numbers.at is None else (-numbers.at[0], numbers.at[1])
    return Base(
        numbers.shape,
        numbers.margin,
        numbers.thickness,
        numbers.corner_radius,
        numbers.colour,
        sides=numbers.sides,
        diameter=numbers.diameter,
        at=at,
    )


def _check(numbers: Stamp) -> None:
    if numbers.shape == "none":
        raise Refusal("stamp.no-plate", "stamp.shape")
    for name, value, low, high in (
        ("thickness", numbers.thickness, 0.4, 100.0),
        ("depth", numbers.depth, 0.2, 50.0),
        ("layer", numbers.layer, 0.02, 2.0),
    ):
        if not (math.isfinite(value) and low <= value <= high):
            raise Refusal("stamp.out-of-range", f"stamp.{name}", name=name, low=low, high=high)
    if not 0 <= numbers.draft <= 45:
        raise Refusal("stamp.draft", "stamp.draft")
    check_grip(numbers.grip, numbers.thickness)


def _drafted(face: BaseGeometry, plate: BaseGeometry, numbers: Stamp) -> list[Level]:
    """The artwork from its foot to its face: shape, and height above the plate of its top."""
    if not numbers.draft:
        return [(face, numbers.depth)]
    steps = profile(Edge("draft", angle=numbers.draft), numbers.depth, numbers.layer)
    parts, most = int(shapely.get_num_geometries(face)), MAX_FACES // len(steps)
    if parts > most:
        raise Refusal("stamp.too-many-parts", "stamp.draft", parts=parts, steps=len(steps), most=most)
    widest = steps[-1][0]
    gaps = shapely.difference(plate, face)
    room = shapely.union(plate, face)

    def widened(by: float) -> BaseGeometry:
        # Only beside gaps that are wide enough to stay open does the foot widen.
        reach = by + KEPT_GAP / 2
        wide = shapely.buffer(shapely.buffer(gaps, -reach, quad_segs=4), reach + UNDER_FACE, quad_segs=4)
        foot = shapely.intersection(shapely.buffer(face, by, quad_segs=2), wide)
        # Far less than one step is wide, so that each still lies within the next.
        foot = shapely.simplify(foot, widest / len(steps) * STEP_CHORD, preserve_topology=False)
        return only_areas(shapely.intersection(shapely.union(face, shapely.make_valid(foot)), room))

    with ThreadPoolExecutor(THREADS) as threads:
        feet = list(threads.map(widened, [widest - step for step, _ in steps[:-1]]))
    return list(zip([*feet, face], [top for _, top in steps], strict=True))


def _own_grip(numbers: Stamp, plate: BaseGeometry, face: BaseGeometry, tolerance: float) -> OwnGrip | None:
    if not numbers.grip.is_apart:
        return None
    beside = shapely.union(plate, face)
    return own_grip(numbers.grip, plate, numbers.thickness, numbers.layer, tolerance, beside, filament=1)


def _cuts(
    numbers: Stamp,
    plate: BaseGeometry,
    grip: list[Level],
    own: OwnGrip | None,
    tolerance: float,
    remarks: list[Remark],
) -> list[Level]:
    """What is cut into the back, and how deep."""
    cuts = []
    centre = plate.centroid
    taken: BaseGeometry = shapely.union_all([shape for shape, _ in grip]) if grip else shapely.Polygon()
    if own:
        cuts.append((own.hole, own.deep))
        taken = own.against
    if numbers.grip.kind == "socket":
        hole = disc(centre.x, centre.y, numbers.grip.diameter / 2, tolerance)
        if not plate.buffer(-ROOF).covers(hole):
            remarks.append(Remark("The peg's socket is wider than the plate. Choose a thinner peg or a wider margin."))
        cuts.append((hole, numbers.grip.height))
        taken = hole.buffer(1.0)
    if numbers.mark:
        x0, y0, x1, y1 = plate.bounds
        size = min(MARK_MOST, MARK_SHARE * min(x1 - x0, y1 - y0))
        arrow = shapely.Polygon([(-0.5, 0), (0.5, 0), (0, 0.8)])
        room = shapely.difference(plate.buffer(-0.8), taken)
        placed = _placed(affinity.scale(arrow, size, size, origin=(0, 0)), room, centre.x, y1)
        if placed is None:
            remarks.append(Remark("There is no room on the back for the mark that points up."))
        else:
            # Only its outline: over so narrow a groove a print needs no support. What little would be left inside
            # of a small one does not hold on a bed.
            inside = placed.buffer(-MARK_LINE)
            groove = shapely.difference(placed, inside) if inside.area > LEAST_INSIDE else placed
            cuts.append((groove, min(MARK_DEPTH, numbers.thickness / 2)))
    return cuts


def _placed(mark: BaseGeometry, room: BaseGeometry, x: float, top: float) -> BaseGeometry | None:
    """The mark as high up as it fits on the line x, made smaller where it must be."""
    if room.is_empty:
        return None
    shapely.prepare(room)
    low = room.bounds[1]
    for scale in (1.0, 0.7, 0.5):
        smaller = affinity.scale(mark, scale, scale, origin=(0, 0))
        at = top
        while at > low:
            here = affinity.translate(smaller, x, at)
            if room.covers(here):
                return here
            at -= max((top - low) / 60, 0.1)
    return None


def _remarks(inked: BaseGeometry, numbers: Stamp, plate: BaseGeometry, grip: list[Level]) -> list[Remark]:
    lines, gaps = narrow_places(inked)
    remarks = []
    if lines is not None and lines.width < LEAST_LINE:
        remarks.append(
            Remark(
                f"The thinnest line is {lines.width:.2f} mm wide; under {LEAST_LINE:g} mm it may break off. "
                "Make the art larger or its lines wider.",
                lines.at,
            )
        )
    if gaps is not None and gaps.width < LEAST_GAP:
        remarks.append(
            Remark(
                f"The narrowest gap is {gaps.width:.2f} mm wide; under {LEAST_GAP:g} mm it fills with ink. "
                "Make the art larger or the gap wider.",
                gaps.at,
            )
        )
    if numbers.depth < LEAST_DEPTH:
        remarks.append(
            Remark(
                f"A background only {numbers.depth:g} mm deep takes up ink and prints too. "
                f"Make the relief {LEAST_DEPTH:g} mm deep or more."
            )
        )
    parts = int(shapely.get_num_geometries(plate))
    if parts > 1:
        remarks.append(
            Remark(
                f"The plate comes out in {parts} separate parts. Widen its margin, or use one plate for all.",
                remedy="one plate",
            )
        )
    if grip:
        widest = shapely.union_all([shape for shape, _ in grip])
        over = shapely.hausdorff_distance(plate, shapely.intersection(widest, plate))
        if over > 1.0:
            remarks.append(
                Remark(
                    f"The plate overhangs the grip by {over:.0f} mm, so it needs supports. "
                    "Printed separately, beside the stamp, it needs none.",
                    remedy="own grip",
                )
            )
    return remarks


def _fits(numbers: Stamp, plate: BaseGeometry, height: float) -> None:
    if numbers.fit is None:
        return
    x0, y0, x1, y1 = plate.bounds
    size = (x1 - x0, y1 - y0, height)
    for name, has, may in zip(("wide", "deep", "high"), size, numbers.fit, strict=True):
        if has > may + 1e-6:
            raise Refusal("stamp.does-not-fit", "stamp.fit", has=has, name=name, may=may)
