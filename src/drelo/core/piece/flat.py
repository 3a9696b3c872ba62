"""What the flat view and the tuning show, row by row."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import InstanceOf, PlainSerializer, SerializationInfo, WithJsonSchema
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.relief import Height
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline
from drelo.core.outline.trim import self_crossings
from drelo.core.picture.palette import colour_distance
from drelo.core.piece.art import PictureTrace
from drelo.core.piece.difference import Difference, difference
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Drawn
from drelo.core.piece.form_numbers import EdgeOptions
from drelo.core.piece.pictures import Mark, Placement
from drelo.core.piece.regions import Region
from drelo.core.piece.remedies import Remedy
from drelo.core.trace.trace import Check, Swatch


def _said(refusal: Refusal, info: SerializationInfo) -> str:
    """In the words of whoever writes it out, who gives `say` as context."""
    return str((info.context or {}).get("say", str)(refusal))


# A refusal among values: written out as its sentence.
Said = Annotated[Refusal, InstanceOf(), PlainSerializer(_said, return_type=str), WithJsonSchema({"type": "string"})]


@dataclass(frozen=True)
class FlatRegion:
    """One region of the flat view.

    path: SVG path data in mm on the sheet: x right, y down.
    height: mm above the base's top, or "through". colour: #rrggbb in the picture, in mode colours.
    decided: the maker chose it for this region. left_out: it is shown but not raised.
    picture: that it was traced from, or the pen drew it on, and traced_in: the area of it. pen: the line that it is.
    drawn: the drawn thing that it belongs to. edge: its own, where one was decided.
    mark: how the region is recognised again.
    """

    id: str
    name: str
    path: str
    area: float
    nodes: int
    box: tuple[float, float, float, float]
    height: Height
    filament: str
    colour: str | None
    decided_height: bool
    decided_filament: bool
    left_out: bool
    picture: str | None
    traced_in: str | None
    pen: str | None
    drawn: str | None
    edge: EdgeOptions | None
    mark: Mark


@dataclass(frozen=True)
class Underlay:
    """A picture of the piece: where its first corner lies, mm, mm a pixel, its turn, degrees, and its size, px.

    look: names the picture as its care leaves it. box: round it on the sheet: left, top, width, height, mm.
    """

    id: str
    name: str
    look: str
    at: tuple[float, float]
    mm_per_px: float
    turn: float
    pixels: tuple[int, int]
    box: tuple[float, float, float, float]
    hidden: bool
    locked: bool


@dataclass(frozen=True)
class FlatTruth:
    """What a trace was found to be when it was held against its picture and itself; px of the picture.

    mean, most, furthest: how far the edges that were seen are from the outlines: on the average, 99 % of them at most,
    and all. crossings: places where outlines cross or touch. again: how many outlines had to be fitted again.
    """

    mean: float
    most: float
    furthest: float
    crossings: int
    again: int


@dataclass(frozen=True)
class FlatTrace:
    """One trace: of a whole picture, or of an area of it. level 0..1, sizes px².

    tones: how much of the picture is of each darkness, from light to dark, the fullest 1.
    dropped, filled: how many specks and pinholes were left out; lost_path: some of them.
    stroke_width: the usual width of middle lines, mm. on_dark: the picture's ground seems to be what is traced.
    check: none while a trace only follows the hand.
    """

    picture: str
    area: str | None
    level: float | None
    speck: float
    pinhole: float | None
    dropped: int
    filled: int
    swatches: tuple[Swatch, ...]
    tones: tuple[float, ...]
    lost_path: str
    stroke_width: float | None
    on_dark: bool
    check: FlatTruth | None = None


@dataclass(frozen=True)
class FlatArea:
    """An area of a picture that is traced by itself; path in mm on the sheet."""

    id: str
    picture: str
    name: str
    path: str


@dataclass(frozen=True)
class FlatLine:
    """An open line of the pen or of a drawn thing: path in mm, and where it begins and ends.

    picture: that the pen drew it on; none of a drawn thing.
    """

    id: str
    name: str
    path: str
    start: tuple[float, float]
    end: tuple[float, float]
    picture: str | None

    @property
    def drawn(self) -> bool:
        return self.picture is None


@dataclass(frozen=True)
class FlatThing:
    """A drawn thing as its nodes are edited: path data in mm, its box, how many of its contours are open.

    crossings: where a contour crosses itself, mm.
    """

    id: str
    path: str
    box: tuple[float, float, float, float]
    nodes: int
    open: int
    crossings: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class FormProblem:
    """Why the form can't be built, and the field that would mend it."""

    message: Said
    field: str


@dataclass(frozen=True)
class FlatRemark:
    """What the maker should know; lengths in its words are in mm. at: where on the sheet, mm.

    mend: an edit that would help, and what it does in words.
    """

    text: str
    at: tuple[float, float] | None = None
    mend: Remedy | None = None
    mend_words: str = ""


@dataclass(frozen=True)
class OutcomeView:
    """What a stamp prints or a cutter's biscuit looks like, as paths on the sheet, mm. places: how many gaps close.

    box: left, top, width, height.
    """

    shape: str
    marks: str
    closed: str
    places: int
    box: tuple[float, float, float, float]


@dataclass(frozen=True)
class TypedSize:
    """A size that was typed for the art, and what it is now, mm. holds: whether the two agree."""

    side: str
    mm: float
    now: float
    holds: bool


@dataclass(frozen=True)
class Flat:
    """All that the flat view and the tuning show. Lengths and places in mm on the sheet.

    left, top, width, height: the box of what is kept. underlays: the pictures, the last one on top.
    product_path: what a stamp prints, or a cutter cuts. overhang_path: what of the art stands out over the base.
    problem: why the form can't be built. reduced: by which whole number pictures were divided to be traced.
    """

    left: float
    top: float
    width: float
    height: float
    size: TypedSize | None
    underlays: tuple[Underlay, ...]
    regions: tuple[FlatRegion, ...]
    base_path: str
    base_box: tuple[float, float, float, float] | None
    product_path: str
    overhang_path: str
    problem: FormProblem | None
    traces: tuple[FlatTrace, ...]
    areas: tuple[FlatArea, ...]
    lines: tuple[FlatLine, ...]
    things: tuple[FlatThing, ...]
    nodes: int
    total_height: float
    reduced: int
    remarks: tuple[FlatRemark, ...]


def flat_difference(before: Flat, after: Flat) -> Difference:
    """What of the flat view changed; a row is a region or a drawn thing."""
    return difference(vars(before), vars(after), ("regions", "things"))


# From so many regions on most of them are likely to be dirt.
CROWD = 1000
# When this share of a picture's border is dark, so is its ground.
GROUND_SHARE = 0.8


@dataclass(frozen=True)
class Placed:
    """What the flat view shows of a single outline: path data and box in mm on the sheet."""

    path: str
    area: float
    nodes: int
    box: tuple[float, float, float, float]


def placed(outline: Outline) -> Placed:
    box = outline.outer.bounds
    width, height = box[2] - box[0], box[3] - box[1]
    return Placed(outline.path_data(3), outline.area, outline.nodes, (box[0], box[1], width, height))


def rings_path(rings: Sequence[NDArray[np.float64]], place: Placement | None = None, digits: int = 2) -> str:
    """Path data of closed polygons, mm, or px of a picture that lies at a place."""
    matrix = place.matrix if place else (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
    a, b, c, d, e, f = matrix
    turn, shift = np.array([[a, b], [c, d]]), np.array([e, f])
    return "".join(
        "M" + "L".join(f"{x:.{digits}f} {y:.{digits}f}" for x, y in (ring @ turn + shift).tolist()) + "Z"
        for ring in rings
    )


def flat_region(
    document: Document,
    region: Region,
    shown: Placed,
    filament: str,
    name: str,
    hole: bool,
) -> FlatRegion:
    """A row of the flat view. filament: what it has where none was decided. hole: it goes through everything."""
    choice, shape = region.choice, region.shape
    own_height = None if choice is None else choice.height
    own_filament = None if choice is None else choice.filament
    return FlatRegion(
        id=region.id,
        name=name,
        path=shown.path,
        area=shown.area,
        nodes=shown.nodes,
        box=shown.box,
        height="through" if hole else document.default_height if own_height is None else own_height,
        filament=document.filament(own_filament or filament).id,
        colour=shape.fill,
        decided_height=own_height is not None,
        decided_filament=own_filament is not None,
        left_out=choice is not None and choice.left_out,
        picture=shape.picture,
        traced_in=shape.area,
        pen=shape.pen,
        drawn=shape.drawn,
        edge=None if choice is None else choice.edge,
        mark=region.mark,
    )


def flat_trace(found: PictureTrace, tones: tuple[float, ...], border: float) -> FlatTrace:
    """border: share of the picture's border that is dark and traced as ink, 0..1."""
    trace, place = found.trace, found.picture.place
    return FlatTrace(
        picture=found.picture.id,
        area=found.area,
        level=trace.level,
        speck=trace.speck,
        pinhole=trace.pinhole,
        dropped=trace.dropped,
        filled=trace.filled,
        swatches=trace.swatches,
        tones=tones,
        lost_path=rings_path(trace.lost, place),
        stroke_width=float(np.median([n.width for n in trace.lines])) * place.mm_per_px if trace.lines else None,
        on_dark=border >= GROUND_SHARE,
        check=_truth(trace.check),
    )


def _truth(check: Check | None) -> FlatTruth | None:
    if check is None:
        return None
    mean, most, furthest = (round(d, 4) for d in (check.mean, check.most, check.furthest))
    return FlatTruth(mean, most, furthest, check.crossings, check.again)


def usual_filament(document: Document, fill: str | None) -> str:
    """The filament of a region for which none was decided: the one nearest to its colour, else the piece's."""
    if fill is None:
        return document.default_filament
    return min(document.filaments, key=lambda f: colour_distance(f.colour, fill)).id


def lost_regions(document: Document, present: set[str]) -> list[str]:
    """A remark on regions for which something was decided and that are not found any more."""
    gone = [c for c in document.regions if c.id not in present]
    if not gone:
        return []
    names = ", ".join(c.name or "a region" for c in gone[:3])
    return [f"No longer found in the trace: {names}. What was decided for it waits until it is back."]


def lost_mends(count: int) -> list[str]:
    """A remark on manual changes that fit nowhere since the picture was traced otherwise."""
    if not count:
        return []
    many = "A change that was made" if count == 1 else f"{count} changes that were made"
    return [f"{many} by hand no longer fit{'s' if count == 1 else ''} the trace. Undo brings back what was."]


def flat_thing(identifier: str, contours: Sequence[Contour], still_open: int) -> FlatThing:
    """still_open: how many of its lines nothing closes, a mirror image neither."""
    boxes = np.array([c.bounds for c in contours] or [(0.0, 0.0, 0.0, 0.0)])
    low, high = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
    return FlatThing(
        identifier,
        "".join(c.path_data(4) for c in contours),
        (low[0], low[1], high[0] - low[0], high[1] - low[1]),
        sum(len(c) for c in contours),
        still_open,
        tuple(point for c in contours for point in self_crossings(c)),
    )


def dark_ground(traces: Sequence[FlatTrace]) -> list[str]:
    """A remark on a picture whose ground seems to be what is traced."""
    if not any(trace.on_dark for trace in traces):
        return []
    return [
        "The picture is dark all round, so its background is traced. If the shapes are the light areas, "
        "switch on “Trace light areas” in Trace."
    ]


def crossings_of(things: Sequence[FlatThing], drawn: Mapping[str, Drawn]) -> list[str]:
    """A remark on drawn things that cross themselves."""
    found = [t for t in things if t.crossings and not drawn[t.id].hidden]
    if not found:
        return []
    names = ", ".join(drawn[t.id].name or "an outline" for t in found[:3]) + (" …" if len(found) > 3 else "")
    places = sum(len(t.crossings) for t in found)
    return [
        f"{names} cross{'es' if len(found) == 1 else ''} {'itself' if len(found) == 1 else 'themselves'} at "
        f"{places} place{'s' if places > 1 else ''}. Play lists where, and mends it."
    ]


def crowd_of(count: int) -> list[str]:
    """A remark on a trace that falls into very many regions."""
    if count < CROWD:
        return []
    return [
        f"The picture falls into {count} regions. If most of them are dirt, raise the speck size or crop the picture."
    ]


def sheet_path(shape: BaseGeometry, left: float, bottom: float) -> str:
    """Path data of a shape in mm, y up from the art's lower left corner, on the sheet."""
    parts = []
    for ring in shapely.get_rings(shapely.get_parts(shape)):
        points = shapely.get_coordinates(ring)[:-1]
        parts.append("M" + "L".join(f"{left + x:.3f} {bottom - y:.3f}" for x, y in points.tolist()) + "Z")
    return "".join(parts)


def sheet_box(box: tuple[float, float, float, float], left: float, bottom: float) -> tuple[float, float, float, float]:
    return left + box[0], bottom - box[3], box[2] - box[0], box[3] - box[1]
