"""Operations on outlines worked out: each becomes one edit that says what is put, dropped and left out."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.outline import ease, grow, nodes, ties, trim
from drelo.core.outline.combine import combined, divided
from drelo.core.outline.contour import Contour, Matrix
from drelo.core.outline.fitting import outlines_of
from drelo.core.outline.inside import fitted_inside
from drelo.core.outline.joining import Link
from drelo.core.outline.outline import Outline
from drelo.core.outline.path_data import write_path
from drelo.core.outline.place import nearest, split_place
from drelo.core.outline.pour import Leak, pour
from drelo.core.outline.primitives import ellipse
from drelo.core.outline.walls import thickened
from drelo.core.piece.art import ROUGH, Art, Shape
from drelo.core.piece.document import Document, Drawn, Mark, Mend, RegionChoice, Size
from drelo.core.piece.drawing import Fonts, worked
from drelo.core.piece.drawn import DrawnLine, DrawnPath, Lettering, TieNumbers
from drelo.core.piece.edits import Picked, Reshape
from drelo.core.piece.moving import keeps_shape, moved
from drelo.core.piece.operations import (
    Align,
    ChangeNodes,
    Combine,
    Ease,
    FitInside,
    InsertNode,
    JoinLines,
    Lift,
    Loop,
    MoveHandle,
    MoveNodes,
    Offset,
    Operation,
    Pour,
    Remove,
    Replace,
    Retie,
    SetWords,
    Simplify,
    Split,
    Stretch,
    Thicken,
    Tie,
    Transform,
    Trim,
    Widen,
)
from drelo.core.region.identity import Footprint, footprint

# A gap up to this (mm) is called a leak; wider ones are just open.
WIDEST_LEAK = 20.0
# A size that is fixed is told by a way of so many mm.
FIXED = 50.0


@dataclass(frozen=True, eq=False)
class Known:
    """A region with what was decided for it."""

    id: str
    shape: Shape
    mark: Footprint
    choice: RegionChoice | None


@dataclass(frozen=True, eq=False)
class Workshop:
    """All that operations need to know of a piece. scale: mm an art unit. fonts: their bytes by name."""

    document: Document
    art: Art
    regions: tuple[Known, ...]
    scale: float
    fonts: Fonts

    def things(self) -> dict[str, Drawn]:
        return {t.id: t for t in self.document.drawn}


@dataclass(eq=False)
class Item:
    """One picked thing: a drawn one with all its outlines, or one traced region."""

    id: str
    thing: Drawn | None
    regions: list[Known] = field(default_factory=list)
    contours: tuple[Contour, ...] = ()

    @property
    def outlines(self) -> list[Outline]:
        return [r.shape.outline for r in self.regions]

    @property
    def fill(self) -> str | None:
        return self.thing.fill if self.thing else self.regions[0].shape.fill

    @property
    def lines(self) -> list[Contour]:
        return [c for c in self.contours if not c.closed]


def shaped(shop: Workshop, operation: Operation) -> Reshape:
    """The edit that an operation comes to. Raises Refusal with what to do instead."""
    work: dict[type, Callable[[Workshop, Operation], Reshape]] = {
        Combine: _combine, Offset: _offset, Thicken: _thicken, Widen: _widen, Tie: _tie, Pour: _pour, MoveNodes: _nodes,
        MoveHandle: _nodes, InsertNode: _nodes, ChangeNodes: _nodes, Ease: _nodes, Stretch: _nodes,
        Simplify: _simplify, Trim: _trim, Split: _split, JoinLines: _join, Transform: _transform,
        Retie: _retie, Remove: _remove, Lift: _lift, Align: _align, Loop: _loop, Replace: _replace,
        SetWords: _set_words, FitInside: _fit_inside,
    }  # fmt: skip
    change = work[type(operation)](shop, operation)
    document = shop.document
    if not change.leave_out or document.source is None or document.size.side == "between":
        return change
    # What is left of the trace would else take the typed size, and everything grow.
    known = Size(side="between", mm=FIXED, points=((0.0, 0.0), (FIXED / shop.scale, 0.0)))
    return change.model_copy(update={"size": known})


def items(shop: Workshop, picked: Sequence[str]) -> list[Item]:
    """What is picked, each thing once. Raises Refusal when a name is no longer there."""
    things, contours = shop.things(), dict(shop.art.things)
    by_id = {r.id: r for r in shop.regions}
    of_thing: dict[str, list[Known]] = {}
    for known in shop.regions:
        if known.shape.drawn:
            of_thing.setdefault(known.shape.drawn, []).append(known)
    pen_lines = dict(shop.art.lines)
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
            raise Refusal("What was picked is no longer there. Pick it again.", "picked")
    return list(found.values())


def _put_out(found: Sequence[Item]) -> tuple[tuple[str, ...], tuple[Picked, ...]]:
    """Drawn things to drop and traced regions to leave out, so that something else takes their place."""
    drop = tuple(i.id for i in found if i.thing is not None)
    out = tuple(
        Picked(id=r.id, mark=Mark(anchor=r.mark.anchor, box=r.mark.box))
        for i in found
        if i.thing is None
        for r in i.regions
    )
    return drop, out


def _paths(
    seed: str, groups: Sequence[Sequence[Outline]], found: Sequence[Item], name: str
) -> tuple[tuple[DrawnPath, ...], tuple[RegionChoice, ...]]:
    """One drawn path for each group of outlines, with what was decided for the first region picked."""
    first = next((i for i in found if i.regions), None)
    choice = first.regions[0].choice if first else None
    put, choices = [], []
    for number, outlines in enumerate(groups):
        if not outlines:
            continue
        identifier = f"{seed}{number}" if len(groups) > 1 else seed
        path = write_path([c for o in outlines for c in o.contours])
        put.append(DrawnPath(id=identifier, name=name, path=path, fill=found[0].fill if found else None))
        if choice is not None and (choice.height is not None or choice.filament is not None):
            for part, outline in enumerate(outlines):
                mark = footprint(outline.flattened(ROUGH))
                choices.append(
                    choice.model_copy(
                        update={"id": f"{identifier}-{part}", "mark": Mark(anchor=mark.anchor, box=mark.box)}
                    )
                )
    return tuple(put), tuple(choices)


def _outlines(found: Sequence[Item]) -> list[Outline]:
    result = [o for i in found for o in i.outlines]
    if not result:
        raise Refusal("Pick closed outlines for this; an open line has no inside. Give it a width first.", "picked")
    return result


def _combine(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Combine)
    found = items(shop, operation.picked)
    closed = [i for i in found if i.outlines]
    whole = _outlines(closed)
    if operation.how in ("carve", "overlap") and len(closed) < 2:
        raise Refusal("Pick two outlines or more: the first is the one that is cut.", "picked")
    if operation.how == "divide":
        groups: list[list[Outline]] = [[o] for o in divided(whole)]
    elif operation.how in ("unite", "silhouette"):
        groups = [combined("unite" if operation.how == "unite" else "silhouette", whole)]
    elif operation.how == "carve":
        groups = [combined("carve", closed[0].outlines, [o for i in closed[1:] for o in i.outlines])]
    else:
        shared = closed[0].outlines
        for item in closed[1:]:
            shared = combined("overlap", shared, item.outlines)
        groups = [shared]
    if not any(groups):
        raise Refusal("Nothing would be left: the outlines do not meet in that way.", "picked")
    put, choices = _paths(operation.seed, groups, closed, _name(closed))
    drop, out = _put_out(closed)
    return Reshape(name=operation.how, put=put, drop=drop, leave_out=out, choices=choices)


def _name(found: Sequence[Item]) -> str:
    return next((i.thing.name for i in found if i.thing and i.thing.name), "")


def _offset(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Offset)
    found = items(shop, operation.picked)
    grown = grow.offset_twice(
        _outlines(found), operation.by, operation.back, operation.corners, operation.fill_holes, shop.scale
    )
    if not grown:
        raise Refusal("Shrunk so far nothing is left.", "by")
    put, choices = _paths(operation.seed, [grown], found, "Border" if operation.by > 0 else "Inset")
    if operation.keep:
        # A border lies beneath what it surrounds, an inset on top.
        beneath = tuple(t.model_copy(update={"beneath": operation.by > 0}) for t in put)
        return Reshape(name="offset", put=beneath, choices=_half_as_high(shop, beneath, found, grown))
    drop, out = _put_out(found)
    return Reshape(name="offset", put=put, drop=drop, leave_out=out, choices=choices)


def _half_as_high(
    shop: Workshop, put: Sequence[DrawnPath], found: Sequence[Item], outlines: Sequence[Outline]
) -> tuple[RegionChoice, ...]:
    """A border stands half as high as what it surrounds, so that this stays to be seen."""
    choice = next((i.regions[0].choice for i in found if i.regions), None)
    height = choice.height if choice and choice.height is not None else shop.document.default_height
    if not put or not put[0].beneath or not isinstance(height, float | int) or height <= 0:
        return ()
    marks = [footprint(o.flattened(ROUGH)) for o in outlines]
    return tuple(
        RegionChoice(id=f"{put[0].id}-{i}", mark=Mark(anchor=m.anchor, box=m.box), height=round(height / 2, 3))
        for i, m in enumerate(marks)
    )


def _thicken(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Thicken)
    found = items(shop, operation.picked)
    wider = thickened(_outlines(found), operation.least, shop.scale)
    put, choices = _paths(operation.seed, [wider], found, _name(found))
    drop, out = _put_out(found)
    return Reshape(name="thicken", put=put, drop=drop, leave_out=out, choices=choices)


def _widen(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Widen)
    found = items(shop, operation.picked)
    contours = [c for i in found for c in i.contours]
    wide = grow.widened(contours, operation.width, operation.ends, operation.corners, shop.scale)
    if not wide:
        raise Refusal("There is no line to widen.", "picked")
    put, choices = _paths(operation.seed, [wide], found, _name(found))
    drop, out = _put_out(found)
    return Reshape(name="width", put=put, drop=drop, leave_out=out, choices=choices)


def _tie(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Tie)
    found = items(shop, operation.picked)
    outlines = _outlines(found)
    if operation.links is None:
        wanted: Sequence[Link] = ties.proposed(outlines, shop.scale)
        if not wanted:
            raise Refusal("What is picked is one part already; it needs no tie.", "picked")
    else:
        wanted = [Link(a, b, float(np.hypot(b[0] - a[0], b[1] - a[1]))) for a, b in operation.links]
    made = [(ties.tie(outlines, link, operation.width, shop.scale), link) for link in wanted]
    made = [(outline, link) for outline, link in made if outline]
    put, choices = _paths(operation.seed, [outline for outline, _ in made], found, "Tie")
    width = operation.width / shop.scale
    tied = tuple(
        path.model_copy(update={"tie": TieNumbers(start=link.start, end=link.end, width=width)})
        for path, (_, link) in zip(put, made, strict=True)
    )
    return Reshape(name="tie", put=tied, choices=choices)


def _retie(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Retie)
    found = items(shop, operation.picked)
    put = []
    for item in found:
        if not isinstance(item.thing, DrawnPath) or item.thing.tie is None:
            raise Refusal("Pick ties only; what was changed by its nodes is a tie no more.", "picked")
        before = item.thing.tie
        width = before.width if operation.width is None else operation.width / shop.scale
        numbers = TieNumbers(start=operation.start or before.start, end=operation.end or before.end, width=width)
        own = {r.id for r in item.regions}
        parts = [r.shape.outline for r in shop.regions if r.id not in own]
        link = Link(numbers.start, numbers.end, math.dist(numbers.start, numbers.end))
        outlines = ties.tie(parts, link, width * shop.scale, shop.scale)
        if not outlines:
            raise Refusal("A tie so narrow vanishes.", "width")
        path = write_path([c for o in outlines for c in o.contours])
        put.append(item.thing.model_copy(update={"path": path, "tie": numbers}))
    return Reshape(name="tie", put=tuple(put))


def _pour(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Pour)
    contours = [c for _, c in shop.art.lines] + [c for r in shop.regions for c in r.shape.outline.contours]
    found = pour(contours, operation.at, operation.gap / shop.scale)
    if found.outline is None:
        raise leak_refusal(found.leak, shop.scale)
    put = (DrawnPath(id=operation.seed, name="Pour", path=write_path(list(found.outline.contours))),)
    return Reshape(name="pour", put=put)


def leak_refusal(leak: Leak | None, scale: float) -> Refusal:
    if leak is None or leak.width * scale > WIDEST_LEAK:
        return Refusal("Nothing encloses this place. Click inside an area that lines surround.", "at")
    return Refusal(
        f"It runs out through a gap of {leak.width * scale:.2f} mm. Close the gap, or raise the gap tolerance.",
        "gap",
    )


def find_leak(shop: Workshop, at: tuple[float, float]) -> Leak | None:
    """The gap through which a pour at a point would run out, art units; None when it holds, or nothing encloses it."""
    contours = [c for _, c in shop.art.lines] + [c for r in shop.regions for c in r.shape.outline.contours]
    found = pour(contours, at)
    return found.leak if found.leak and found.leak.width * shop.scale <= WIDEST_LEAK else None


def _nodes(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, MoveNodes | MoveHandle | InsertNode | ChangeNodes | Ease | Stretch)
    item = items(shop, [operation.id])[0]
    contours = list(item.contours)
    if isinstance(operation, InsertNode | Ease | Stretch):
        first = {"at": "at", "points": "points", "start": "start"}
        place = next(getattr(operation, n) for n in first if hasattr(operation, n))
        spots = place if isinstance(operation, Ease) else (place,)
        at = _nearest_contour(contours, spots)
    else:
        at = operation.contour
    if at >= len(contours):
        raise Refusal("The outline has no such contour any more.", "contour")
    contour = contours[at]
    changed = _changed(contour, operation, shop.scale)
    new = contours[:at] + ([changed] if changed is not None and len(changed) else []) + contours[at + 1 :]
    if not new:
        drop, out = _put_out([item])
        return Reshape(name="nodes", drop=drop, leave_out=out)
    return _changed_item(shop, item, new, "nodes")


def _nearest_contour(contours: Sequence[Contour], spots: Sequence[tuple[float, float]]) -> int:
    points = np.array(spots)
    return int(np.argmin([nearest(c, points)[1].min() for c in contours]))


def _changed(
    contour: Contour, operation: MoveNodes | MoveHandle | InsertNode | ChangeNodes | Ease | Stretch, scale: float
) -> Contour | None:
    match operation:
        case MoveNodes():
            return nodes.moved(contour, operation.nodes, *operation.by)
        case MoveHandle():
            return nodes.handle_moved(contour, operation.segment, operation.handle, operation.to, operation.linked)
        case InsertNode():
            segment, t = split_place(contour, float(nearest(contour, np.array([operation.at]))[0][0]))
            return nodes.inserted(contour, segment, min(max(t, 1e-3), 1 - 1e-3))
        case Ease():
            eased = ease.eased(
                contour, np.array(operation.points), operation.radius / scale, operation.tolerance / scale
            )
            if eased is None:
                raise Refusal("No outline lies under the brush. Rub along an outline.", "points")
            return eased
        case Stretch():
            straight = ease.straightened if operation.how == "line" else ease.rounded
            return straight(contour, operation.start, operation.end)
        case ChangeNodes(how="delete"):
            return nodes.deleted(contour, operation.nodes)
        case ChangeNodes(how="smooth"):
            return nodes.smooth(contour, operation.nodes)
        case ChangeNodes(how="corner"):
            return nodes.corner(contour, operation.nodes)
        case ChangeNodes(how="line"):
            return nodes.lines(contour, operation.nodes)
        case ChangeNodes(how="curve"):
            return nodes.curved(contour, operation.nodes)
        case ChangeNodes(how="open"):
            return nodes.opened(contour, operation.nodes[0])
        case _:
            return nodes.closed(contour)


def _changed_item(shop: Workshop, item: Item, contours: list[Contour], name: str) -> Reshape:
    """The edit that gives an item other contours: a drawn path changes, a traced outline gets a mend."""
    if item.thing is not None:
        if isinstance(item.thing, DrawnPath):
            return Reshape(name=name, put=(item.thing.model_copy(update={"path": write_path(contours), "tie": None}),))
        plain = item.thing.model_dump(include={"id", "name", "fill", "group", "locked", "hidden"})
        path = DrawnPath(**plain, path=write_path(contours), follow=item.thing.follow)
        return Reshape(name=name, put=(path,))
    if not item.regions:
        raise Refusal("The pen's open line follows the picture. Close it, or draw it anew, to change its nodes.", "id")
    region = item.regions[0]
    if region.shape.pen is not None or any(not c.closed for c in contours) or not outlines_of(contours):
        # What is no closed outline of the trace any more becomes a drawn line of its own.
        drop, out = _put_out([item])
        path = DrawnPath(id=f"m{region.id}"[:40], path=write_path(contours), fill=region.shape.fill)
        return Reshape(name=name, put=(path,), drop=drop, leave_out=out)
    before = next((m for m in shop.document.mends if region.shape.traced and _is_of(m, region)), None)
    was = before.was if before else write_path(list(region.shape.outline.contours))
    mark = Mark(anchor=region.mark.anchor, box=region.mark.box)
    identifier = before.id if before else f"m{region.id}"[:40]
    mend = Mend(id=identifier, mark=before.mark if before else mark, was=was, now=write_path(contours))
    return Reshape(name=name, mends=(mend,))


def _is_of(mend: Mend, region: Known) -> bool:
    (x0, y0, x1, y1), (a0, b0, a1, b1) = mend.mark.box, region.mark.box
    reach = 0.25 * max(x1 - x0, y1 - y0, 1.0)
    return max(abs(x0 - a0), abs(y0 - b0), abs(x1 - a1), abs(y1 - b1)) < reach


def _merged(parts: Sequence[Reshape], name: str) -> Reshape:
    return Reshape(
        name=name,
        put=tuple(t for p in parts for t in p.put),
        drop=tuple(t for p in parts for t in p.drop),
        leave_out=tuple(t for p in parts for t in p.leave_out),
        mends=tuple(t for p in parts for t in p.mends),
        choices=tuple(t for p in parts for t in p.choices),
    )


def _simplify(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Simplify)
    parts = []
    for item in items(shop, operation.picked):
        new = [ease.simplified(c, operation.tolerance / shop.scale) for c in item.contours]
        if sum(len(c) for c in new) < sum(len(c) for c in item.contours):
            parts.append(_changed_item(shop, item, new, "simplify"))
    if not parts:
        raise Refusal("There is no node to spare within this tolerance.", "tolerance")
    return _merged(parts, "simplify")


def _crossing_contours(shop: Workshop, item: Item, number: int) -> tuple[list[Contour], int]:
    """All contours of the piece, and the place of one of an item's among them."""
    others = [c for r in shop.regions if r.id not in {k.id for k in item.regions} for c in r.shape.outline.contours]
    others += [c for name, c in shop.art.lines if name != item.id]
    return [*item.contours, *others], number


def _trim(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Trim)
    item = items(shop, [operation.id])[0]
    at = _nearest_contour(item.contours, [operation.at])
    contours, number = _crossing_contours(shop, item, at)
    rest = trim.trimmed(contours, number, operation.at)
    kept = [*item.contours[:at], *rest, *item.contours[at + 1 :]]
    drop, out = _put_out([item])
    if not kept:
        return Reshape(name="trim", drop=drop, leave_out=out)
    path = DrawnPath(id=operation.seed, name=_name([item]), fill=item.fill, path=write_path(kept))
    return Reshape(name="trim", put=(path,), drop=drop, leave_out=out)


def _split(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Split)
    found = items(shop, operation.picked)
    put: list[DrawnPath] = []
    for item in found:
        for number in range(len(item.contours)):
            contours, at = _crossing_contours(shop, item, number)
            for piece in trim.split(contours, at):
                put.append(DrawnPath(id=f"{operation.seed}{len(put)}", fill=item.fill, path=write_path([piece])))
    if len(put) <= sum(len(i.contours) for i in found):
        raise Refusal("Nothing crosses what is picked.", "picked")
    drop, out = _put_out(found)
    return Reshape(name="split", put=tuple(put), drop=drop, leave_out=out)


def _join(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, JoinLines)
    found = items(shop, operation.picked)
    lines = [(i, c) for i in found for c in i.lines]
    if not lines:
        raise Refusal("Pick one or two open lines to join.", "picked")
    if len(lines) == 1:
        item, line = lines[0]
        rest = [c for c in item.contours if c is not line]
        return _changed_item(shop, item, [*rest, nodes.closed(line)], "close")
    (one, first), (two, second) = lines[:2]
    joined = nodes.joined(first, second)
    rest = [c for c in one.contours if c is not first and c is not second]
    change = _changed_item(shop, one, [*rest, joined], "join")
    if two is one:
        return change
    others = [c for c in two.contours if c is not second]
    if others:
        return _merged([change, _changed_item(shop, two, others, "join")], "join")
    drop, out = _put_out([two])
    return _merged([change, Reshape(name="join", drop=drop, leave_out=out)], "join")


def _mapped(shop: Workshop, item: Item, matrix: Matrix, identifier: str, keep: bool) -> Reshape:
    """An item under an affine map, under a name of its own when the old one is kept."""
    if item.thing is not None and (isinstance(item.thing, DrawnPath | DrawnLine) or keeps_shape(matrix)):
        new = moved(item.thing, matrix)
        if not keep:
            return Reshape(name="move", put=(new,))
        return Reshape(
            name="move", put=(new.model_copy(update={"id": identifier}),), choices=_choices(item, identifier)
        )
    contours = [c.mapped(matrix) for c in item.contours]
    name = item.thing.name if item.thing else (item.regions[0].choice and item.regions[0].choice.name) or ""
    path = DrawnPath(id=identifier, name=name or "", fill=item.fill, path=write_path(contours))
    if keep:
        return Reshape(name="move", put=(path,), choices=_choices(item, identifier))
    if item.thing is not None:
        return Reshape(name="move", put=(path.model_copy(update={"id": item.id}),))
    drop, out = _put_out([item])
    return Reshape(name="move", put=(path,), drop=drop, leave_out=out, choices=_choices(item, identifier))


def _choices(item: Item, identifier: str) -> tuple[RegionChoice, ...]:
    """What was decided for an item's regions, for a thing that takes their place."""
    return tuple(
        r.choice.model_copy(update={"id": f"{identifier}-{i}", "left_out": False})
        for i, r in enumerate(item.regions)
        if r.choice is not None
    )


def _times(matrix: Matrix, times: int) -> Matrix:
    result: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
    for _ in range(times):
        result = _after(matrix, result)
    return result


def _after(second: Matrix, first: Matrix) -> Matrix:
    a, b, c, d, e, f = second
    g, h, i, j, k, m = first
    return (a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f)


def _transform(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Transform)
    a, b, c, d, _, _ = operation.matrix
    if not np.isfinite(operation.matrix).all() or abs(a * d - b * c) < 1e-12:
        raise Refusal("This would flatten the outlines to nothing.", "matrix")
    found = items(shop, operation.picked)
    parts = []
    for number, item in enumerate(found):
        if operation.copies:
            for copy in range(1, operation.copies + 1):
                parts.append(
                    _mapped(shop, item, _times(operation.matrix, copy), f"{operation.seed}{number}c{copy}", True)
                )
        else:
            parts.append(_mapped(shop, item, operation.matrix, f"{operation.seed}{number}", False))
    return _merged(parts, "duplicate" if operation.copies else "move")


def _fit_inside(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, FitInside)
    (holder,) = items(shop, [operation.into])
    inner = [item for item in items(shop, operation.picked) if item.id != holder.id]
    if not inner:
        raise Refusal("Pick what is to be fitted and, last, what it is fitted into.", "picked")
    room = grow.area_of([Outline(o.outer) for o in _outlines([holder])], shop.scale)
    room = shapely.buffer(room, -operation.margin / shop.scale, quad_segs=32)
    largest = max(shapely.get_parts(room), key=lambda part: part.area, default=None)
    art = shapely.union_all([_flat_item(item, shop.scale) for item in inner])
    found = None if largest is None else fitted_inside(art, largest)
    if found is None:
        raise Refusal("With this margin there is no room left inside. Make the margin smaller.", "margin")
    factor, (x, y) = found
    x0, y0, x1, y1 = art.bounds
    matrix = (factor, 0.0, 0.0, factor, x - factor * (x0 + x1) / 2, y - factor * (y0 + y1) / 2)
    parts = [_mapped(shop, item, matrix, f"{operation.seed}{i}", False) for i, item in enumerate(inner)]
    return _merged(parts, "fit inside")


def _flat_item(item: Item, scale: float) -> BaseGeometry:
    """What an item covers, its open lines among it, art units."""
    chord = grow.CHORD / scale
    lines = [shapely.LineString(line.flattened(chord)) for line in item.lines]
    return shapely.union_all([grow.area_of(item.outlines, scale), *lines])


def _remove(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Remove)
    drop, out = _put_out(items(shop, operation.picked))
    return Reshape(name="remove", drop=drop, leave_out=out)


def _lift(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Lift)
    parts = []
    for number, item in enumerate(items(shop, operation.picked)):
        if item.thing is None:
            parts.append(_mapped(shop, item, (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), f"{operation.seed}{number}", False))
        elif not isinstance(item.thing, DrawnPath):
            parts.append(_changed_item(shop, item, list(item.contours), "lift"))
    if not parts:
        raise Refusal("What is picked is made of free nodes already.", "picked")
    return _merged(parts, "lift")


def _align(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Align)
    found = items(shop, operation.picked)
    boxes = np.array([_box(i) for i in found])
    if len(found) < 2:
        raise Refusal("Pick two things or more to align.", "picked")
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
        _mapped(shop, item, (1.0, 0.0, 0.0, 1.0, float(dx), float(dy)), f"{operation.seed}{i}", False)
        for i, (item, (dx, dy)) in enumerate(zip(found, shift, strict=True))
        if abs(dx) + abs(dy) > 1e-9
    ]
    return _merged(parts, "align")


def _box(item: Item) -> tuple[float, float, float, float]:
    boxes = np.array([c.bounds for c in item.contours])
    return tuple(np.concatenate([boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)]).tolist())


def _loop(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Loop)
    found = items(shop, [operation.id])
    by: Matrix = (1.0, 0.0, 0.0, 1.0, *operation.at)
    hole = Outline(ellipse(operation.inner / shop.scale, operation.inner / shop.scale).mapped(by))
    whole = _outlines(found)
    if operation.kind == "loop":
        outer = (operation.inner + 2 * operation.wall) / shop.scale
        ring = Outline(ellipse(outer, outer).mapped(by))
        if not shapely.intersects(grow.area_of(whole, shop.scale), ring.flattened(grow.CHORD / shop.scale)):
            raise Refusal("The loop does not touch the outline. Set it nearer.", "at")
        whole = combined("unite", whole, [ring])
    cut = combined("carve", whole, [hole])
    if not cut:
        raise Refusal("The hole would take everything away.", "inner")
    put, choices = _paths(operation.seed, [cut], found, _name(found))
    drop, out = _put_out(found)
    return Reshape(name=operation.kind, put=put, drop=drop, leave_out=out, choices=choices)


def _replace(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, Replace)
    thing = shop.things().get(operation.id)
    if not isinstance(thing, Lettering):
        raise Refusal("Pick a lettering that is to take the place of traced letters.", "id")
    contours = dict(shop.art.things)[thing.id]
    boxes = np.array([c.bounds for c in contours])
    area = shapely.box(*boxes[:, :2].min(axis=0).tolist(), *boxes[:, 2:].max(axis=0).tolist())
    beneath = []
    for region in shop.regions:
        if region.shape.drawn is None and not (region.choice and region.choice.left_out):
            rough = region.shape.outline.flattened(ROUGH)
            if shapely.intersection(rough, area).area > 0.5 * rough.area:
                beneath.append(Picked(id=region.id, mark=Mark(anchor=region.mark.anchor, box=region.mark.box)))
    if not beneath:
        raise Refusal("No traced outline lies beneath this lettering.", "id")
    return Reshape(name="replace", leave_out=tuple(beneath))


def _set_words(shop: Workshop, operation: Operation) -> Reshape:
    assert isinstance(operation, SetWords)
    taken = {p.id for p in operation.under}
    choice = next((r.choice for r in shop.regions if r.id in taken and r.choice is not None), None)
    choices = []
    if choice is not None:
        # The words stand as high as the letters did, in their filament; each letter is a region.
        for thing in operation.things:
            for part, outline in enumerate(worked(thing, shop.fonts).outlines):
                mark = footprint(outline.flattened(ROUGH))
                at = Mark(anchor=mark.anchor, box=mark.box)
                choices.append(choice.model_copy(update={"id": f"{thing.id}-{part}", "mark": at, "name": None}))
    return Reshape(name="words", put=operation.things, leave_out=operation.under, choices=tuple(choices))
