"""A bed plan: pieces with how many copies of each, and where they lie on the beds of a printer. Lengths in mm."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

import numpy as np
import shapely
from pydantic import Field
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.rehearsal.beds import centred, placed, shape_of
from drelo.core.rehearsal.nesting import MOST_BEDS, Place, nested
from drelo.core.rehearsal.settings import MAX_COPIES, Frozen, Key, Printer, Title

MOST_THINGS = 200
# So many copies of all things together are laid.
MOST_LAID = 1000
FURTHEST = 5000.0
# Places nearer than this to each other, or so far over the edge, are where they should be.
HAIR = 1e-3

Far = Annotated[float, Field(ge=-FURTHEST, le=FURTHEST, allow_inf_nan=False)]


class Thing(Frozen):
    """A piece, by its name in the workshop, and how many of it."""

    piece: Annotated[str, Field(min_length=1, max_length=64)]
    copies: Annotated[int, Field(ge=1, le=MAX_COPIES)] = 1


class Lying(Frozen):
    """Where a copy (from 0) of a thing (by its number) lies: turned about its corner (radians), then moved.

    bed: from 0. locked: it stays there when the others are packed.
    """

    thing: Annotated[int, Field(ge=0, lt=MOST_THINGS)]
    copy_number: Annotated[int, Field(ge=0, lt=MAX_COPIES)]
    bed: Annotated[int, Field(ge=0, lt=MOST_BEDS)]
    x: Far
    y: Far
    turn: Annotated[float, Field(ge=-1000, le=1000, allow_inf_nan=False)] = 0.0
    locked: bool = False

    @property
    def place(self) -> Place:
        return Place(self.bed, self.x, self.y, self.turn)


class BedPlan(Frozen):
    """spacing: between copies, and none to the edge of a bed."""

    name: Title = "Bed"
    printer: Key = "plain"
    spacing: Annotated[float, Field(ge=0, le=100)] = 5.0
    things: Annotated[tuple[Thing, ...], Field(max_length=MOST_THINGS)] = ()
    places: Annotated[tuple[Lying, ...], Field(max_length=MOST_LAID)] = ()


Trouble = Literal["over the edge", "overlaps"]


def packed(
    plan: BedPlan, outlines: Mapping[int, BaseGeometry], printer: Printer, keep: Literal["locked", "all"]
) -> BedPlan:
    """The plan with a place for every copy. outlines: of things by their number, their corner at 0, 0.

    keep: what lies already and stays: what is locked, or all of it, so that only new copies are laid. Raises Refusal
    where there are too many copies, or one fits on no bed.
    """
    wanted = [(number, k) for number in sorted(outlines) for k in range(plan.things[number].copies)]
    if len(wanted) > MOST_LAID:
        raise Refusal("bed.too-many-copies", "things", count=len(wanted), most=MOST_LAID)
    known = {(p.thing, p.copy_number): p for p in plan.places}
    stays = {at: known[key] for at, key in enumerate(wanted) if key in known and (keep == "all" or known[key].locked)}
    bed = shape_of(printer)
    _fit(plan, outlines, bed)
    found = nested(
        [outlines[number] for number, _ in wanted],
        bed,
        plan.spacing,
        fixed={at: lying.place for at, lying in stays.items()},
    )
    if found is None:
        raise Refusal("bed.no-room", "places")
    for bed_number in {place.bed for place in found} - {lying.bed for lying in stays.values()}:
        mine = [at for at, place in enumerate(found) if place.bed == bed_number]
        moved = centred([found[at] for at in mine], [outlines[wanted[at][0]] for at in mine], printer)
        for at, place in zip(mine, moved, strict=True):
            found[at] = place
    places = tuple(
        stays[at]
        if at in stays
        else Lying(thing=number, copy_number=k, bed=place.bed, x=place.x, y=place.y, turn=place.turn % math.tau)
        for at, ((number, k), place) in enumerate(zip(wanted, found, strict=True))
    )
    return plan.model_copy(update={"places": places})


def _fit(plan: BedPlan, outlines: Mapping[int, BaseGeometry], bed: BaseGeometry) -> None:
    for number, outline in outlines.items():
        if nested([outline], bed, 0.0) is None:
            wide, deep = outline.bounds[2] - outline.bounds[0], outline.bounds[3] - outline.bounds[1]
            raise Refusal("bed.too-large", f"things.{number}", number=number + 1, wide=wide, deep=deep)


def amiss(plan: BedPlan, outlines: Mapping[int, BaseGeometry], printer: Printer) -> list[Trouble | None]:
    """What is wrong with each place: it is over the edge of the bed, or overlaps another copy."""
    bed = shapely.buffer(shape_of(printer), HAIR)
    shapely.prepare(bed)
    shapes = np.array(
        [placed(outlines[p.thing], p.place) if p.thing in outlines else shapely.Polygon() for p in plan.places], object
    )
    found: list[Trouble | None] = [None if bed.covers(shape) else "over the edge" for shape in shapes]
    tree = shapely.STRtree(shapes)
    one, other = tree.query(shapely.buffer(shapes, -HAIR), predicate="intersects") if len(shapes) else ([], [])
    for a, b in zip(one, other, strict=True):
        if a != b and plan.places[a].bed == plan.places[b].bed:
            found[a] = found[a] or "overlaps"
            found[b] = found[b] or "overlaps"
    return found


def beds_of(plan: BedPlan) -> list[list[int]]:
    """The numbers of the places on each bed, from the first bed to the last that holds anything."""
    last = max((p.bed for p in plan.places), default=-1)
    return [[i for i, p in enumerate(plan.places) if p.bed == bed] for bed in range(last + 1)]


def without_gaps(plan: BedPlan) -> BedPlan:
    """The plan with beds that hold nothing taken out."""
    number = {bed: i for i, bed in enumerate(sorted({p.bed for p in plan.places}))}
    return plan.model_copy(update={"places": tuple(p.model_copy(update={"bed": number[p.bed]}) for p in plan.places)})


def kept(things: Sequence[Thing], plan: BedPlan) -> BedPlan:
    """The plan with other things: the places of those that stay go along."""
    number: dict[str, int] = {thing.piece: i for i, thing in enumerate(things)}
    places = []
    for place in plan.places:
        to = number.get(plan.things[place.thing].piece)
        if to is not None and place.copy_number < things[to].copies:
            places.append(place.model_copy(update={"thing": to}))
    return plan.model_copy(update={"things": tuple(things), "places": tuple(places)})
