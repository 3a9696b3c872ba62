"""Operations on nodes and lines: move, insert, ease, simplify, trim, split, join."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from drelo.core.errors import Refusal
from drelo.core.outline import ease, nodes, trim
from drelo.core.outline.contour import Contour, Matrix
from drelo.core.outline.path_data import write_path
from drelo.core.outline.place import nearest, split_place
from drelo.core.piece.drawn import DrawnPath
from drelo.core.piece.edits import Reshape
from drelo.core.piece.operations import (
    ChangeNodes,
    Ease,
    InsertNode,
    JoinLines,
    MoveHandle,
    MoveNodes,
    Simplify,
    Split,
    Stretch,
    Trim,
)
from drelo.core.piece.shaping.symmetry import inverse, mapped_point, maps_of
from drelo.core.piece.shaping.workshop import (
    Item,
    Workshop,
    changed_item,
    choices_for,
    items,
    merged,
    name_of,
    put_out,
)

NodeChange = MoveNodes | MoveHandle | InsertNode | ChangeNodes | Ease | Stretch


def changed_nodes(shop: Workshop, operation: NodeChange) -> Reshape:
    item = items(shop, [operation.id])[0]
    contours = list(item.contours)
    if isinstance(operation, InsertNode | Ease | Stretch):
        operation, at = _on_own(item, operation)
    else:
        at = operation.contour
    if at >= len(contours):
        raise Refusal("contour.gone", "contour")
    contour = contours[at]
    changed = _changed(contour, operation)
    new = contours[:at] + ([changed] if changed is not None and len(changed) else []) + contours[at + 1 :]
    if not new:
        drop, out = put_out([item])
        return Reshape(name="nodes", drop=drop, leave_out=out)
    return changed_item(shop, item, new, "nodes")


def _on_own(item: Item, operation: InsertNode | Ease | Stretch) -> tuple[InsertNode | Ease | Stretch, int]:
    """What was asked of a copy, asked of the thing itself; and the contour that is meant."""
    match operation:
        case InsertNode(at=at):
            back, number = own_place(item, [at])
            return operation.model_copy(update={"at": mapped_point(back, at)}), number
        case Ease(points=points):
            back, number = own_place(item, points)
            return operation.model_copy(update={"points": tuple(mapped_point(back, p) for p in points)}), number
        case Stretch(start=start, end=end):
            back, number = own_place(item, [start])
            moved = {"start": mapped_point(back, start), "end": mapped_point(back, end)}
            return operation.model_copy(update=moved), number


def own_place(item: Item, spots: Sequence[tuple[float, float]]) -> tuple[Matrix, int]:
    """The map from the copy that lies under places to the thing itself, and the contour of it that is nearest."""
    best: tuple[float, Matrix, int] | None = None
    for matrix in maps_of(item.follow):
        back = inverse(matrix)
        points = np.array([mapped_point(back, spot) for spot in spots])
        off = [float(nearest(c, points)[1].min()) for c in item.contours]
        number = int(np.argmin(off))
        # The thing itself comes first: of places that are as near, its own is meant.
        if best is None or off[number] < best[0] - 1e-9:
            best = (off[number], back, number)
    assert best is not None
    return best[1], best[2]


def _changed(contour: Contour, operation: NodeChange) -> Contour | None:
    match operation:
        case MoveNodes():
            return nodes.moved(contour, operation.nodes, *operation.by)
        case MoveHandle():
            return nodes.handle_moved(contour, operation.segment, operation.handle, operation.to, operation.linked)
        case InsertNode():
            segment, t = split_place(contour, float(nearest(contour, np.array([operation.at]))[0][0]))
            return nodes.inserted(contour, segment, min(max(t, 1e-3), 1 - 1e-3))
        case Ease():
            eased = ease.eased(contour, np.array(operation.points), operation.radius, operation.tolerance)
            if eased is None:
                raise Refusal("brush.no-outline", "points")
            if ease.same(contour, eased, operation.tolerance):
                raise Refusal("brush.spikes", "tolerance", tolerance=operation.tolerance)
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


def simplify(shop: Workshop, operation: Simplify) -> Reshape:
    parts = []
    for item in items(shop, operation.picked):
        new = [ease.simplified(c, operation.tolerance) for c in item.contours]
        if sum(len(c) for c in new) < sum(len(c) for c in item.contours):
            parts.append(changed_item(shop, item, new, "simplify"))
    if not parts:
        raise Refusal("simplify.nothing-to-spare", "tolerance")
    return merged(parts, "simplify")


def _crossing_contours(shop: Workshop, item: Item) -> list[Contour]:
    """An item's contours first, then its copies and everything else that may cross them."""
    copies = [c.mapped(m) for m in maps_of(item.follow)[1:] for c in item.contours]
    others = [c for r in shop.regions if r.id not in {k.id for k in item.regions} for c in r.shape.outline.contours]
    others += [c for name, c in shop.open_lines if name != item.id]
    return [*item.contours, *copies, *others]


def trimmed(shop: Workshop, operation: Trim) -> Reshape:
    """The clicked stretch goes, and with it that of every copy; nothing else changes."""
    item = items(shop, [operation.id])[0]
    back, at = own_place(item, [operation.at])
    rest = trim.trimmed(_crossing_contours(shop, item), at, mapped_point(back, operation.at))
    kept = [*item.contours[:at], *rest, *item.contours[at + 1 :]]
    drop, out = put_out([item])
    if not kept:
        return Reshape(name="trim", drop=drop, leave_out=out)
    if item.thing is not None:
        return changed_item(shop, item, kept, "trim")
    path = DrawnPath(id=operation.seed, name=name_of([item]), fill=item.fill, path=write_path(kept))
    return Reshape(name="trim", put=(path,), drop=drop, leave_out=out, choices=choices_for(item, operation.seed))


def split(shop: Workshop, operation: Split) -> Reshape:
    found = items(shop, operation.picked)
    put: list[DrawnPath] = []
    for item in found:
        contours = _crossing_contours(shop, item)
        for number in range(len(item.contours)):
            for piece in trim.split(contours, number):
                name, path = f"{operation.seed}{len(put)}", write_path([piece])
                put.append(DrawnPath(id=name, fill=item.fill, path=path, follow=item.follow))
    if len(put) <= sum(len(i.contours) for i in found):
        raise Refusal("cut.nothing-crosses", "picked")
    drop, out = put_out(found)
    return Reshape(name="split", put=tuple(put), drop=drop, leave_out=out)


def join(shop: Workshop, operation: JoinLines) -> Reshape:
    found = items(shop, operation.picked)
    lines = [(i, c) for i in found for c in i.lines]
    if not lines:
        raise Refusal("join.too-many", "picked")
    if len(lines) == 1:
        item, line = lines[0]
        rest = [c for c in item.contours if c is not line]
        return changed_item(shop, item, [*rest, nodes.closed(line)], "close")
    (one, first), (two, second) = lines[:2]
    joined = nodes.joined(first, second)
    rest = [c for c in one.contours if c is not first and c is not second]
    change = changed_item(shop, one, [*rest, joined], "join")
    if two is one:
        return change
    others = [c for c in two.contours if c is not second]
    if others:
        return merged([change, changed_item(shop, two, others, "join")], "join")
    drop, out = put_out([two])
    return merged([change, Reshape(name="join", drop=drop, leave_out=out)], "join")
