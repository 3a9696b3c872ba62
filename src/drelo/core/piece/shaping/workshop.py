"""What operations on outlines work with: the piece's things and regions, and what becomes of those that are picked."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.fitting import outlines_of
from drelo.core.outline.outline import Outline
from drelo.core.outline.path_data import write_path
from drelo.core.piece.art import Art, Shape
from drelo.core.piece.document import Document, RegionChoice
from drelo.core.piece.drawing import Fonts
from drelo.core.piece.drawn import Drawn, DrawnPath, Symmetry
from drelo.core.piece.edits import Picked, Reshape
from drelo.core.piece.pictures import Mark, Mend, marked
from drelo.core.piece.shaping.symmetry import repeated
from drelo.core.region.identity import footprint

# What a thing keeps when it becomes a path.
KEPT = ("id", "name", "fill", "group", "locked", "hidden", "beneath", "hole", "origin", "follow")
# Chord tolerance by which a new region is told apart from others, mm.
ROUGHLY = 0.05


@dataclass(frozen=True, eq=False)
class Known:
    """A region with what was decided for it. name: what it is called."""

    id: str
    shape: Shape
    mark: Mark
    choice: RegionChoice | None
    name: str = ""


@dataclass(frozen=True, eq=False)
class Workshop:
    """All that operations need to know of a piece. fonts: their bytes by name. pixels: of pictures after their care."""

    document: Document
    art: Art
    regions: tuple[Known, ...]
    fonts: Fonts
    pixels: Mapping[str, tuple[int, int]] = field(default_factory=dict)

    @cached_property
    def things(self) -> dict[str, Drawn]:
        return {t.id: t for t in self.document.drawn}

    @property
    def open_lines(self) -> tuple[tuple[str, Contour], ...]:
        return tuple((line.id, line.contour) for line in self.art.lines)


@dataclass(eq=False)
class Item:
    """One picked thing: a drawn one with all its outlines, or one traced region. contours: a drawn one's own."""

    id: str
    thing: Drawn | None
    regions: list[Known] = field(default_factory=list)
    contours: tuple[Contour, ...] = ()

    @property
    def outlines(self) -> list[Outline]:
        return [r.shape.outline for r in self.regions]

    @property
    def fill(self) -> str | None:
        return self.thing.fill if self.thing else self.regions[0].shape.fill if self.regions else None

    @property
    def follow(self) -> Symmetry | None:
        return self.thing.follow if self.thing else None

    @property
    def lines(self) -> list[Contour]:
        return [c for c in self.contours if not c.closed]


def mark_of(outline: Outline) -> Mark:
    """How a new region of a drawn thing is recognised."""
    found = footprint(outline.flattened(ROUGHLY))
    return marked(found.anchor, found.box)


def items(shop: Workshop, picked: Sequence[str]) -> list[Item]:
    """What is picked, each thing once. Raises Refusal when a name is no longer there."""
    things, contours = shop.things, dict(shop.art.things)
    by_id = {r.id: r for r in shop.regions}
    of_thing: dict[str, list[Known]] = {}
    for known in shop.regions:
        if known.shape.drawn:
            of_thing.setdefault(known.shape.drawn, []).append(known)
    pen_lines = dict(shop.open_lines)
    found: dict[str, Item] = {}
    for name in picked:
        region = by_id.get(name)
        thing = things.get(region.shape.drawn if region and region.shape.drawn else name)
        if thing is not None:
            found.setdefault(thing.id, Item(thing.id, thing, of_thing.get(thing.id, []), contours.get(thing.id, ())))
        elif region is not None:
            found.setdefault(region.id, Item(region.id, None, [region], region.shape.outline.contours))
        elif name in pen_lines:
            found.setdefault(name, Item(name, None, [], (pen_lines[name],)))
        else:
            raise Refusal("pick.gone", "picked")
    return list(found.values())


def put_out(found: Sequence[Item]) -> tuple[tuple[str, ...], tuple[Picked, ...]]:
    """Drawn things to drop and traced regions to leave out, so that something else takes their place."""
    drop = tuple(i.id for i in found if i.thing is not None)
    out = tuple(Picked(id=r.id, mark=r.mark) for i in found if i.thing is None for r in i.regions)
    return drop, out


def paths(
    seed: str, groups: Sequence[Sequence[Outline]], found: Sequence[Item], name: str
) -> tuple[tuple[DrawnPath, ...], tuple[RegionChoice, ...]]:
    """One drawn path for each group of outlines, with what was decided for the first region picked.

    What is repeated stays so where the result still is, and what all lay beneath lies there.
    """
    first = next((i for i in found if i.regions), None)
    choice = first.regions[0].choice if first else None
    put, choices = [], []
    for number, outlines in enumerate(groups):
        if not outlines:
            continue
        identifier = f"{seed}{number}" if len(groups) > 1 else seed
        own, follow = repeated(outlines, [i.follow for i in found])
        path = write_path([c for o in own for c in o.contours])
        fill = found[0].fill if found else None
        put.append(
            DrawnPath(
                id=identifier,
                name=name,
                path=path,
                fill=fill,
                beneath=bool(found) and all(i.thing is not None and i.thing.beneath for i in found),
                follow=follow,
                origin=origin_of(found),
            )
        )
        if choice is not None and (choice.height is not None or choice.filament is not None):
            for part, outline in enumerate(outlines):
                choices.append(choice.model_copy(update={"id": f"{identifier}-{part}", "mark": mark_of(outline)}))
    return tuple(put), tuple(choices)


def outlines_of_picked(found: Sequence[Item]) -> list[Outline]:
    result = [o for i in found for o in i.outlines]
    if not result:
        raise Refusal("pick.open-line", "picked")
    return result


def name_of(found: Sequence[Item]) -> str:
    """What comes of things is called: as the first of them that a maker named, else as the first."""
    given = (i.thing.name if i.thing else (i.regions[0].choice and i.regions[0].choice.name) for i in found)
    named = next((name for name in given if name), "")
    return named or next((name_of_item(i) for i in found), "")


def origin_of(found: Sequence[Item]) -> str:
    """Where what comes of things came from: from wherever one of them did."""
    known = dict.fromkeys(i.thing.origin for i in found if i.thing and i.thing.origin)
    return "; ".join(known)[:400]


def name_of_item(item: Item) -> str:
    if item.thing is not None:
        return item.thing.name
    return item.regions[0].name if item.regions else ""


def changed_item(shop: Workshop, item: Item, contours: list[Contour], name: str) -> Reshape:
    """The edit that gives an item other contours: a drawn path changes, a traced outline gets a mend."""
    if item.thing is not None:
        if isinstance(item.thing, DrawnPath):
            changed = {"path": write_path(contours), "tie": None, "tied": None}
            return Reshape(name=name, put=(item.thing.model_copy(update=changed),))
        kept = {name: getattr(item.thing, name) for name in KEPT}
        path = DrawnPath(**kept, path=write_path(contours))
        return Reshape(name=name, put=(path,))
    if not item.regions:
        raise Refusal("pick.follows-picture", "id")
    region = item.regions[0]
    if region.shape.pen is not None or any(not c.closed for c in contours) or not outlines_of(contours):
        # What is no closed outline of the trace any more becomes a drawn line of its own.
        drop, out = put_out([item])
        path = DrawnPath(id=f"m{region.id}"[:40], name=region.name, path=write_path(contours), fill=region.shape.fill)
        return Reshape(name=name, put=(path,), drop=drop, leave_out=out)
    picture = shop.document.picture(region.shape.picture)
    mends = picture.mends if picture and region.shape.changed else ()
    before = next((m for m in mends if _is_of(m, region)), None)
    was = before.was if before else write_path(list(region.shape.outline.contours))
    identifier = before.id if before else f"m{region.id}"[:40]
    mark = before.mark if before else region.mark
    mend = Mend(id=identifier, mark=mark, was=was, now=write_path(contours))
    return Reshape(name=name, mends=(mend,))


def _is_of(mend: Mend, region: Known) -> bool:
    (x0, y0, x1, y1), (a0, b0, a1, b1) = mend.mark.box, region.mark.box
    reach = 0.25 * max(x1 - x0, y1 - y0, region.shape.pixel)
    return max(abs(x0 - a0), abs(y0 - b0), abs(x1 - a1), abs(y1 - b1)) < reach


def merged(parts: Sequence[Reshape], name: str) -> Reshape:
    return Reshape(
        name=name,
        put=tuple(t for p in parts for t in p.put),
        drop=tuple(t for p in parts for t in p.drop),
        leave_out=tuple(t for p in parts for t in p.leave_out),
        mends=tuple(t for p in parts for t in p.mends),
        choices=tuple(t for p in parts for t in p.choices),
        place=tuple(t for p in parts for t in p.place),
    )


def choices_for(item: Item, identifier: str) -> tuple[RegionChoice, ...]:
    """What was decided for an item's regions, for a thing that takes their place."""
    return tuple(choice_for(r.choice, f"{identifier}-{i}") for i, r in enumerate(item.regions) if r.choice is not None)


def choice_for(choice: RegionChoice, identifier: str) -> RegionChoice:
    """What was decided for a region, for one of a drawn thing: no picture has a say in it any more."""
    mark = choice.mark.model_copy(update={"picture": None})
    return choice.model_copy(update={"id": identifier, "mark": mark, "left_out": False})


def box_of(item: Item) -> tuple[float, float, float, float]:
    boxes = np.array([c.bounds for c in item.contours])
    return tuple(np.concatenate([boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)]).tolist())
