"""Operations on places: move, turn, size, mirror, align, fit inside, remove, make plain, let a picture go."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.outline import grow
from drelo.core.outline.contour import Matrix
from drelo.core.outline.fineness import GROWN_CHORD
from drelo.core.outline.inside import fitted_inside
from drelo.core.outline.outline import Outline
from drelo.core.outline.path_data import write_path
from drelo.core.piece.document import Size
from drelo.core.piece.drawn import Drawn, DrawnLine, DrawnPath
from drelo.core.piece.edits import MoveSheet, Reshape
from drelo.core.piece.moving import keeps_shape, mapped_place, moved, moved_symmetry
from drelo.core.piece.operations import (
    BASE,
    Align,
    Centre,
    FitInside,
    KeepOutlines,
    Lift,
    MakePlain,
    Remove,
    SetSize,
    Transform,
)
from drelo.core.piece.shaping.symmetry import maps_of
from drelo.core.piece.shaping.workshop import (
    KEPT,
    Item,
    Workshop,
    box_of,
    changed_item,
    choice_for,
    choices_for,
    items,
    merged,
    name_of_item,
    outlines_of_picked,
    put_out,
)

# Chords in a quarter of a round corner.
ROUND = 32


def _mapped(item: Item, matrix: Matrix, identifier: str, keep: bool) -> Reshape:
    """An item under an affine map, under a name of its own when the old one is kept."""
    thing = item.thing
    if thing is not None and (isinstance(thing, DrawnPath | DrawnLine) or keeps_shape(matrix)):
        new = moved(thing, matrix)
        if not keep:
            return Reshape(name="move", put=(new,))
        copy = new.model_copy(update={"id": identifier})
        return Reshape(name="move", put=(copy,), choices=choices_for(item, identifier))
    path = write_path([c.mapped(matrix) for c in item.contours])
    if thing is not None:
        # A shape or words that are bent become a path.
        kept = {name: getattr(thing, name) for name in KEPT}
        bent = DrawnPath(**{**kept, "path": path, "follow": thing.follow and moved_symmetry(thing.follow, matrix)})
        if not keep:
            return Reshape(name="move", put=(bent,))
        copy = bent.model_copy(update={"id": identifier})
        return Reshape(name="move", put=(copy,), choices=choices_for(item, identifier))
    new = DrawnPath(id=identifier, name=name_of_item(item), fill=item.fill, path=path)
    if keep:
        return Reshape(name="move", put=(new,), choices=choices_for(item, identifier))
    drop, out = put_out([item])
    return Reshape(name="move", put=(new,), drop=drop, leave_out=out, choices=choices_for(item, identifier))


def _all_mapped(shop: Workshop, found: Sequence[Item], matrix: Matrix, seed: str) -> list[Reshape]:
    """Everything that is picked under one map; a picture of which every region is picked goes as a whole."""
    parts = []
    picked = {r.id for i in found for r in i.regions if r.shape.drawn is None}
    whole = {p.id: p for p in shop.document.pictures if keeps_shape(matrix) and _wholly(shop, p.id, picked)}
    for picture in whole.values():
        parts.append(Reshape(name="move", place=((picture.id, mapped_place(picture.place, matrix)),)))
    for number, item in enumerate(found):
        if item.regions and item.regions[0].shape.picture in whole:
            continue
        parts.append(_mapped(item, matrix, f"{seed}{number}", False))
    return parts


def _wholly(shop: Workshop, picture: str, picked: set[str]) -> bool:
    own = [r.id for r in shop.regions if r.shape.picture == picture]
    return bool(own) and all(name in picked for name in own)


def _times(matrix: Matrix, times: int) -> Matrix:
    result: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
    for _ in range(times):
        result = _after(matrix, result)
    return result


def _after(second: Matrix, first: Matrix) -> Matrix:
    a, b, c, d, e, f = second
    g, h, i, j, k, m = first
    return (a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f)


def transform(shop: Workshop, operation: Transform) -> Reshape:
    a, b, c, d, _, _ = operation.matrix
    if not np.isfinite(operation.matrix).all() or abs(a * d - b * c) < 1e-12:
        raise Refusal("place.flattened", "matrix")
    found = items(shop, operation.picked)
    if not operation.copies:
        return merged(_all_mapped(shop, found, operation.matrix, operation.seed), "move")
    parts = [
        _mapped(item, _times(operation.matrix, copy), f"{operation.seed}{number}c{copy}", True)
        for number, item in enumerate(found)
        for copy in range(1, operation.copies + 1)
    ]
    return merged(parts, "duplicate")


def fit_inside(shop: Workshop, operation: FitInside) -> Reshape:
    """What is picked as large as it fits into a ring's hole, an outline, or the base; what holds it stays."""
    room, inner = _room(shop, operation.into, operation.picked)
    largest = max(
        shapely.get_parts(shapely.buffer(room, -operation.margin, quad_segs=ROUND)), key=lambda p: p.area, default=None
    )
    art = shapely.union_all([_flat_item(item) for item in inner])
    found = None if largest is None or art.is_empty else fitted_inside(art, largest)
    if found is None:
        raise Refusal("inside.no-room", "margin")
    factor, (x, y) = found
    x0, y0, x1, y1 = art.bounds
    matrix = (factor, 0.0, 0.0, factor, x - factor * (x0 + x1) / 2, y - factor * (y0 + y1) / 2)
    change = merged(_all_mapped(shop, inner, matrix, operation.seed), "fit inside")
    return change.model_copy(update={"base_at": _base_stays(shop, operation.into)})


def centre(shop: Workshop, operation: Centre) -> Reshape:
    """The middle of what is picked in the middle of another thing, or of the base, or so far from it."""
    room, inner = _room(shop, operation.onto, operation.picked)
    (a0, b0, a1, b1), boxes = room.bounds, np.array([box_of(item) for item in inner])
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    middle = (float(m) for m in (low + high) / 2)
    aims = zip(((a0 + a1) / 2, (b0 + b1) / 2), operation.by, middle, strict=True)
    by = tuple(0.0 if off is None else aim + off - at for aim, off, at in aims)
    change = merged(_all_mapped(shop, inner, (1.0, 0.0, 0.0, 1.0, by[0], by[1]), operation.seed), "centre")
    return change.model_copy(update={"base_at": _base_stays(shop, operation.onto)})


def _room(shop: Workshop, into: str, picked: Sequence[str]) -> tuple[BaseGeometry, list[Item]]:
    """The area inside what holds, mm, and what is to go into it."""
    if into == BASE:
        return _base_area(shop), items(shop, picked)
    (holder,) = items(shop, [into])
    outlines = outlines_of_picked([holder])
    holes = [shapely.make_valid(shapely.Polygon(h.flattened(GROWN_CHORD))) for o in outlines for h in o.holes]
    # A ring holds what is in its hole.
    room = max(holes, key=lambda h: h.area) if holes else grow.area_of([Outline(o.outer) for o in outlines])
    x0, y0, x1, y1 = box_of(holder)
    inner = []
    for item in items(shop, picked):
        a0, b0, a1, b1 = box_of(item)
        # What goes round the holder holds as well, and stays.
        if item.id != holder.id and not (a0 <= x0 and b0 <= y0 and a1 >= x1 and b1 >= y1):
            inner.append(item)
    if not inner:
        raise Refusal("inside.too-few", "picked")
    return room, inner


def _base_area(shop: Workshop) -> BaseGeometry:
    base = shop.document.base
    if not base.stands_alone:
        raise Refusal("inside.no-base-size", "base")
    width, depth = base.block if base.shape == "block" else base.sides or (base.diameter or 0.0, base.diameter or 0.0)
    x, y = base.at or _middle_of_art(shop)
    if base.shape == "circle":
        return shapely.Point(x, y).buffer(width / 2, quad_segs=4 * ROUND)
    radius = min(base.corner_radius, width / 2, depth / 2)
    box = shapely.box(x - width / 2, y - depth / 2, x + width / 2, y + depth / 2)
    return box if not radius else box.buffer(-radius).buffer(radius, quad_segs=ROUND)


def _base_stays(shop: Workshop, into: str) -> tuple[float, float] | None:
    """Where the base is held, so that what goes onto it does not take it along."""
    return (shop.document.base.at or _middle_of_art(shop)) if into == BASE else None


def _middle_of_art(shop: Workshop) -> tuple[float, float]:
    boxes = np.array([r.shape.outline.outer.bounds for r in shop.regions])
    if not len(boxes):
        return 0.0, 0.0
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    x, y = ((low + high) / 2).tolist()
    return x, y


def set_size(shop: Workshop, operation: SetSize) -> MoveSheet:
    """The whole art so large that one side of its box is as typed; its upper left corner stays."""
    boxes = np.array([r.shape.outline.outer.bounds for r in shop.regions])
    if not len(boxes):
        raise Refusal("size.no-outline", "side")
    (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
    extent = x1 - x0 if operation.side == "width" else y1 - y0
    if not extent > 0:
        raise Refusal("size.straight-line", "side")
    f = operation.mm / extent
    x, y = ((x0 + x1) / 2, (y0 + y1) / 2) if shop.document.base.at else (x0, y0)
    matrix = (f, 0.0, 0.0, f, x - f * x, y - f * y)
    return MoveSheet(matrix=matrix, size=Size(side=operation.side, mm=operation.mm))


def make_plain(shop: Workshop, operation: MakePlain) -> Reshape:
    """What is repeated becomes free outlines, its copies among them."""
    put: list[Drawn] = []
    for item in items(shop, operation.picked):
        if item.thing is None or item.thing.follow is None:
            continue
        kept = {name: getattr(item.thing, name) for name in KEPT if name != "follow"}
        lines = [line.mapped(m) for m in maps_of(item.follow) for line in item.lines] if not item.outlines else []
        contours = [*(c for o in item.outlines for c in o.contours), *lines]
        put.append(DrawnPath(**kept, path=write_path(contours)))
    if not put:
        raise Refusal("repeat.nothing", "picked")
    return Reshape(name="make plain", put=tuple(put))


def keep_outlines(shop: Workshop, operation: KeepOutlines) -> Reshape:
    """A picture goes, and its outlines stay as drawn things with their heights and names."""
    own = [r for r in shop.regions if r.shape.picture == operation.picture]
    if shop.document.picture(operation.picture) is None:
        raise Refusal("piece.no-such-picture", "picture")
    put, choices = [], []
    for number, region in enumerate(own):
        name = f"{operation.seed}{number}"
        path = write_path(list(region.shape.outline.contours))
        put.append(DrawnPath(id=name, name=region.name, fill=region.shape.fill, path=path))
        if region.choice is not None:
            choices.append(choice_for(region.choice, f"{name}-0"))
    lines = [line for line in shop.art.lines if line.picture == operation.picture]
    for number, line in enumerate(lines):
        put.append(DrawnPath(id=f"{operation.seed}l{number}", name="Line", path=write_path([line.contour])))
    return Reshape(name="keep outlines", put=tuple(put), choices=tuple(choices), drop_pictures=(operation.picture,))


def _flat_item(item: Item) -> BaseGeometry:
    """What an item covers, its open lines among it, mm."""
    lines = [shapely.LineString(line.flattened(GROWN_CHORD)) for line in item.lines]
    return shapely.union_all([grow.area_of(item.outlines), *lines])


def remove(shop: Workshop, operation: Remove) -> Reshape:
    drop, out = put_out(items(shop, operation.picked))
    return Reshape(name="remove", drop=drop, leave_out=out)


def lift(shop: Workshop, operation: Lift) -> Reshape:
    parts = []
    for number, item in enumerate(items(shop, operation.picked)):
        if item.thing is None:
            parts.append(_mapped(item, (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), f"{operation.seed}{number}", False))
        elif not isinstance(item.thing, DrawnPath):
            parts.append(changed_item(shop, item, list(item.contours), "lift"))
    if not parts:
        raise Refusal("nodes.free-already", "picked")
    return merged(parts, "lift")


def align(shop: Workshop, operation: Align) -> Reshape:
    found = items(shop, operation.picked)
    boxes = np.array([box_of(i) for i in found])
    if len(found) < 2:
        raise Refusal("align.too-few", "picked")
    low, high = boxes[:, :2], boxes[:, 2:]
    middle = (low + high) / 2
    shift = np.zeros((len(found), 2))
    match operation.how:
        case "left" | "right":
            shift[:, 0] = low[:, 0].min() - low[:, 0] if operation.how == "left" else high[:, 0].max() - high[:, 0]
        case "top" | "bottom":
            shift[:, 1] = low[:, 1].min() - low[:, 1] if operation.how == "top" else high[:, 1].max() - high[:, 1]
        case "centre":
            shift[:, 0] = (low[:, 0].min() + high[:, 0].max()) / 2 - middle[:, 0]
        case "middle":
            shift[:, 1] = (low[:, 1].min() + high[:, 1].max()) / 2 - middle[:, 1]
        case _:
            axis = 0 if operation.how == "spread-across" else 1
            order = np.argsort(middle[:, axis])
            places = np.linspace(middle[order[0], axis], middle[order[-1], axis], len(found))
            shift[order, axis] = places - middle[order, axis]
    parts = [
        _mapped(item, (1.0, 0.0, 0.0, 1.0, float(dx), float(dy)), f"{operation.seed}{i}", False)
        for i, (item, (dx, dy)) in enumerate(zip(found, shift, strict=True))
        if abs(dx) + abs(dy) > 1e-9
    ]
    return merged(parts, "align")
