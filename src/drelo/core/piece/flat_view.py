"""The flat view put together from what was worked out of a piece."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
import shapely

from drelo.core.form.columns import Design
from drelo.core.picture.decode import Picture
from drelo.core.piece.art import Art, Line
from drelo.core.piece.document import HOLDS, Document
from drelo.core.piece.flat import (
    Flat,
    FlatArea,
    FlatLine,
    FlatRemark,
    FormProblem,
    TypedSize,
    Underlay,
    crossings_of,
    crowd_of,
    dark_ground,
    flat_region,
    flat_thing,
    flat_trace,
    lost_mends,
    lost_regions,
    placed,
    rings_path,
    sheet_box,
    sheet_path,
    usual_filament,
)
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.piece.regions import Each, Region
from drelo.core.piece.remedies import remedy_of
from drelo.core.rehearsal.reach import beyond_reach

Box = tuple[float, float, float, float]
# A typed size that is missed by less than this (mm) is no remark: it could not be read off it.
TOLD = 0.01


@dataclass(frozen=True, eq=False)
class Drawing:
    """All that the flat view is made of.

    names: of the regions by id. box: of what is kept: left, top, right, bottom.
    origin: where the solid's x = y = 0 lies on the sheet, mm.
    design: the form, or problem: why there is none. pictures, tones: by the picture's id, after its care.
    borders: of each trace of the art, what share of the picture's border is ink. each: remembers by outline.
    """

    art: Art
    regions: tuple[Region, ...]
    names: Mapping[str, str]
    box: Box | None
    origin: tuple[float, float]
    design: Design | None
    problem: FormProblem | None
    pictures: Mapping[str, Picture]
    tones: Mapping[str, tuple[float, ...]]
    borders: Sequence[float]
    reduced: int
    each: Each  # type: ignore[type-arg]


def flat_view(document: Document, drawing: Drawing) -> Flat:
    """What the flat view and the tuning show."""
    art, design, each = drawing.art, drawing.design, drawing.each
    things = {t.id: t for t in document.drawn}
    usual = {fill: usual_filament(document, fill) for fill in {s.fill for s in art.shapes}}
    regions = tuple(
        flat_region(
            document,
            r,
            each(("placed", r.shape.outline), partial(placed, r.shape.outline)),
            usual[r.shape.fill],
            drawing.names[r.id],
            bool(r.shape.drawn and things[r.shape.drawn].hole),
        )
        for r in drawing.regions
    )
    still_open = Counter(line.id for line in art.lines if line.picture is None)
    rows = tuple(
        each(("thing row", i, contours, still_open[i]), partial(flat_thing, i, contours, still_open[i]))
        for i, contours in art.things
    )
    left, top, right, low = drawing.box or (0.0, 0.0, 0.0, 0.0)
    plate = (design and design.footprint) or shapely.Polygon()
    product = (design and design.product) or shapely.Polygon()
    columns = design.columns if design else ()
    high = max((band.top for column in columns for band in column), default=0.0)
    x0, y0, x1, y1 = (0.0, 0.0, 0.0, 0.0) if plate.is_empty else plate.bounds
    extent = (max(x1 - x0, right - left), max(y1 - y0, low - top), high)
    traces = tuple(
        flat_trace(t, drawing.tones[t.picture.id], border)
        for t, border in zip(art.traces, drawing.borders, strict=True)
    )
    size = _typed_size(document, drawing.box)
    corner, bottom = drawing.origin
    told = (
        *_size_lost(size),
        *lost_regions(document, {r.id for r in regions}),
        *lost_mends(art.lost),
        *crowd_of(len(regions)),
        *dark_ground(traces),
        *_unfinished(len(art.lines)),
        *crossings_of(rows, things),
    )
    return Flat(
        left=left,
        top=top,
        width=right - left,
        height=low - top,
        size=size,
        underlays=tuple(_underlay(p, drawing.pictures[p.id]) for p in document.pictures),
        regions=regions,
        base_path=sheet_path(plate, corner, bottom),
        base_box=None if plate.is_empty else sheet_box(plate.bounds, corner, bottom),
        product_path=sheet_path(product, corner, bottom),
        overhang_path=sheet_path((design and design.overhang) or shapely.Polygon(), corner, bottom),
        problem=drawing.problem,
        traces=traces,
        areas=tuple(
            FlatArea(a.id, p.id, a.name, rings_path([np.array(a.corners, np.float64)], digits=3))
            for p in document.pictures
            for a in p.areas
        ),
        lines=tuple(_flat_line(document, line) for line in art.lines),
        things=rows,
        nodes=sum(r.nodes for r in regions if not r.left_out),
        total_height=high,
        reduced=drawing.reduced,
        remarks=(
            *_of_the_form(document, design, extent, drawing.origin),
            *map(FlatRemark, told),
        ),
    )


def _of_the_form(
    document: Document, design: Design | None, extent: tuple[float, float, float], origin: tuple[float, float]
) -> list[FlatRemark]:
    """What the form says, with its places on the sheet and what mends it."""
    found = []
    for remark in (*design.remarks, *beyond_reach(extent, document.nozzle)) if design else ():
        at = remark.at and (origin[0] + remark.at[0], origin[1] - remark.at[1])
        found.append(FlatRemark(remark.text, at, *remedy_of(document, remark, at)))
    return found


def _typed_size(document: Document, box: Box | None) -> TypedSize | None:
    if document.size is None or box is None:
        return None
    now = box[2] - box[0] if document.size.side == "width" else box[3] - box[1]
    return TypedSize(document.size.side, document.size.mm, now, abs(now - document.size.mm) < HOLDS)


def _size_lost(size: TypedSize | None) -> list[str]:
    if size is None or abs(size.now - size.mm) < TOLD:
        return []
    return [
        f"The art is {size.now:.2f} mm {'wide' if size.side == 'width' else 'high'}; "
        f"{size.mm:.2f} mm were typed. Set it again in Shape, under Place, or leave it."
    ]


def _underlay(placed_picture: PlacedPicture, picture: Picture) -> Underlay:
    place, (w, h) = placed_picture.place, (float(picture.width), float(picture.height))
    corners = np.array([place.on_sheet(p) for p in ((0.0, 0.0), (w, 0.0), (w, h), (0.0, h))])
    low, size = corners.min(axis=0).tolist(), np.ptp(corners, axis=0).tolist()
    return Underlay(
        placed_picture.id,
        placed_picture.name,
        placed_picture.look,
        place.at,
        place.mm_per_px,
        place.turn,
        (picture.width, picture.height),
        (low[0], low[1], size[0], size[1]),
        placed_picture.hidden,
        placed_picture.locked,
    )


def _flat_line(document: Document, line: Line) -> FlatLine:
    (x0, y0), (x1, y1) = line.contour.curves[0, 0].tolist(), line.contour.curves[-1, 3].tolist()
    picture = document.picture(line.picture) if line.picture else None
    named = picture.pen if picture else document.drawn
    name = next((one.name for one in named if one.id == line.id), "")
    return FlatLine(line.id, name, line.contour.path_data(3), (x0, y0), (x1, y1), line.picture)


def _unfinished(count: int) -> list[str]:
    if not count:
        return []
    return [f"{count} line{'s' if count > 1 else ''} {'are' if count > 1 else 'is'} still open."]
