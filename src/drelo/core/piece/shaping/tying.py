"""Ties: loose parts become one outline, and its ties stay to be changed by their numbers."""

from __future__ import annotations

import math
from collections.abc import Sequence

import shapely

from drelo.core.errors import Refusal
from drelo.core.outline import grow, ties
from drelo.core.outline.combine import combined
from drelo.core.outline.fitting import outlines_of
from drelo.core.outline.joining import Link
from drelo.core.outline.outline import Outline
from drelo.core.outline.path_data import read_path, write_path
from drelo.core.piece.document import RegionChoice
from drelo.core.piece.drawn import DrawnPath, Lettering, Tied, TieNumbers
from drelo.core.piece.edits import Reshape
from drelo.core.piece.operations import Retie, Tie
from drelo.core.piece.shaping.workshop import (
    Item,
    Workshop,
    items,
    name_of,
    outlines_of_picked,
    paths,
    put_out,
)


def tie(shop: Workshop, operation: Tie) -> Reshape:
    """Ties with what they join made one outline; on words, and on what is repeated, they lie as things of their own."""
    found = items(shop, operation.picked)
    outlines = outlines_of_picked(found)
    if operation.links is None:
        wanted: Sequence[Link] = ties.proposed(outlines)
        if not wanted:
            raise Refusal("tie.one-part", "picked")
    else:
        wanted = [Link(a, b, math.dist(a, b)) for a, b in operation.links]
    groups = _groups(found, outlines, wanted, operation.width)
    put: list[DrawnPath] = []
    choices: list[RegionChoice] = []
    gone: list[Item] = []
    for joined, numbers in groups:
        seed = f"{operation.seed}{len(put)}" if len(groups) > 1 or len(numbers) > 1 else operation.seed
        if all(_becomes_one(item) for item in joined):
            path, chosen = _as_one(seed, joined, numbers)
            put.append(path)
            choices += chosen
            gone += joined
            continue
        for one in numbers:
            alone = ties.tie(outlines, _link(one), one.width)
            made, chosen = paths(f"{operation.seed}{len(put)}", [alone], joined, "Tie")
            put += [thing.model_copy(update={"tie": one}) for thing in made]
            choices += chosen
    if not put:
        raise Refusal("tie.off-outlines", "links")
    drop, out = put_out(gone)
    return Reshape(name="tie", put=tuple(put), drop=drop, leave_out=out, choices=tuple(choices))


def _link(numbers: TieNumbers) -> Link:
    return Link(numbers.start, numbers.end, math.dist(numbers.start, numbers.end))


def _becomes_one(item: Item) -> bool:
    """Words stay words, and what is repeated stays repeated."""
    return not isinstance(item.thing, Lettering) and item.follow is None


def _groups(
    found: Sequence[Item], outlines: Sequence[Outline], links: Sequence[Link], width: float
) -> list[tuple[list[Item], list[TieNumbers]]]:
    """Items that ties make one, with those ties."""
    areas = [grow.area_of(item.outlines) for item in found]
    group = list(range(len(found)))
    touched: list[list[int]] = []
    numbers = [TieNumbers(start=link.start, end=link.end, width=width) for link in links]
    for link in links:
        made = grow.area_of(ties.tie(outlines, link, width))
        meets = [i for i, area in enumerate(areas) if not made.is_empty and shapely.intersects(area, made)]
        touched.append(meets)
        if meets:
            one = {group[i] for i in meets}
            group = [min(one) if g in one else g for g in group]
    result = []
    for name in sorted({group[meets[0]] for meets in touched if meets}):
        own = [n for n, meets in zip(numbers, touched, strict=True) if meets and group[meets[0]] == name]
        joined = {i for meets in touched for i in meets if group[i] == name}
        result.append(([found[i] for i in sorted(joined)], own))
    return result


def _as_one(
    seed: str, joined: Sequence[Item], numbers: Sequence[TieNumbers]
) -> tuple[DrawnPath, Sequence[RegionChoice]]:
    """Parts and ties as one outline. Ties that were in a part stay ties."""
    parts: list[Outline] = []
    every: list[TieNumbers] = []
    for item in joined:
        before = item.thing.tied if isinstance(item.thing, DrawnPath) else None
        parts += outlines_of(read_path(before.parts)) if before else item.outlines
        every += before.ties if before else ()
    tied = Tied(parts=write_path([c for o in parts for c in o.contours]), ties=(*every, *numbers))
    (path,), choices = paths(seed, [_united(tied)], joined, name_of(joined))
    return path.model_copy(update={"tied": tied}), choices


def _united(tied: Tied) -> list[Outline]:
    parts = outlines_of(read_path(tied.parts))
    made = [outline for one in tied.ties for outline in ties.tie(parts, _link(one), one.width)]
    if not made:
        raise Refusal("tie.too-narrow", "width")
    return combined("unite", parts, made, snapped=True)


def retie(shop: Workshop, operation: Retie) -> Reshape:
    put = []
    for item in items(shop, operation.picked):
        thing = item.thing
        if isinstance(thing, DrawnPath) and thing.tied is not None:
            every = list(thing.tied.ties)
            if operation.which >= len(every):
                raise Refusal("tie.gone", "which")
            every[operation.which] = _changed(every[operation.which], operation)
            tied = Tied(parts=thing.tied.parts, ties=tuple(every))
            path = write_path([c for o in _united(tied) for c in o.contours])
            put.append(thing.model_copy(update={"path": path, "tied": tied}))
        elif isinstance(thing, DrawnPath) and thing.tie is not None:
            own = {r.id for r in item.regions}
            numbers = _changed(thing.tie, operation)
            others = [r.shape.outline for r in shop.regions if r.id not in own]
            outlines = ties.tie(others, _link(numbers), numbers.width)
            if not outlines:
                raise Refusal("tie.too-narrow", "width")
            path = write_path([c for o in outlines for c in o.contours])
            put.append(thing.model_copy(update={"path": path, "tie": numbers}))
        else:
            raise Refusal("tie.none-picked", "picked")
    return Reshape(name="tie", put=tuple(put))


def _changed(before: TieNumbers, operation: Retie) -> TieNumbers:
    width = before.width if operation.width is None else operation.width
    return TieNumbers(start=operation.start or before.start, end=operation.end or before.end, width=width)
