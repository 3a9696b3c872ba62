"""Regions: the shapes of a piece's art, each with what was decided for it."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import TypeVar

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.contour import Matrix
from drelo.core.outline.outline import Outline
from drelo.core.piece.art import ROUGH, Shape
from drelo.core.piece.document import RegionChoice
from drelo.core.piece.pictures import Mark, marked
from drelo.core.region.identity import Footprint, footprint, recognise

T = TypeVar("T")
Each = Callable[[Hashable, Callable[[], T]], T]
"""Remembers what follows from a single outline."""


@dataclass(frozen=True, eq=False)
class Region:
    """A shape of the art with what was decided for it. mark: how it is recognised again."""

    shape: Shape
    mark: Mark
    id: str
    choice: RegionChoice | None

    @property
    def left_out(self) -> bool:
        return self.choice is not None and self.choice.left_out


@dataclass(frozen=True, eq=False)
class Seen:
    """A shape as it is recognised: its rough area, mm on the sheet, its mark, and a name of its own."""

    rough: BaseGeometry
    mark: Mark
    name: str


def seen(shape: Shape, place: Matrix | None, each: Each[Seen]) -> Seen:
    """place: from px of its picture to mm on the sheet, for what was traced."""
    outline = shape.seen or shape.outline
    key = ("seen", outline, place, shape.picture)
    return each(key, partial(_seen, outline, place, shape.picture))


def _seen(outline: Outline, place: Matrix | None, picture: str | None) -> Seen:
    rough = outline.flattened(ROUGH)
    first = footprint(rough)
    # What is traced keeps its name while its picture is moved about.
    name = "r" + hashlib.sha256(repr((picture, first.anchor, first.box)).encode()).hexdigest()[:10]
    if place is not None:
        a, b, c, d, e, f = place
        matrix, shift = np.array([[a, b], [c, d]]), np.array([e, f])
        rough = shapely.transform(rough, lambda xy: xy @ matrix + shift)
        first = footprint(rough)
    return Seen(rough, marked(first.anchor, first.box, picture), name)


def recognised(shapes: Sequence[Shape], found: Sequence[Seen], choices: Sequence[RegionChoice]) -> tuple[Region, ...]:
    """Every shape with its choice. Drawn things keep their names; what was traced is known by where it lies."""
    fixed = [drawn_name(shape) for shape in shapes]
    names = set(fixed)
    by_name = {c.id: c for c in choices if c.id in names}
    chosen: dict[int, RegionChoice] = {}
    loose: dict[str | None, list[RegionChoice]] = {}
    for choice in choices:
        if choice.id not in names:
            loose.setdefault(choice.mark.picture, []).append(choice)
    for picture, waiting in loose.items():
        at = [i for i, s in enumerate(shapes) if fixed[i] is None and picture in (None, s.picture) and i not in chosen]
        known = [Footprint(c.mark.anchor, c.mark.box) for c in waiting]
        for choice, place in zip(waiting, recognise(known, [found[i].rough for i in at]), strict=True):
            if place is not None:
                chosen[at[place]] = choice
    result = []
    for i, (shape, one, name) in enumerate(zip(shapes, found, fixed, strict=True)):
        own = by_name.get(name) if name else chosen.get(i)
        result.append(Region(shape, one.mark, name or (own.id if own else one.name), own))
    return tuple(result)


def drawn_name(shape: Shape) -> str | None:
    """What a region of a drawn thing is called."""
    return None if shape.drawn is None else f"{shape.drawn}-{shape.part}".replace(".", "-")
