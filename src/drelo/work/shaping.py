"""What a worker does for outlines: operations, drawings brought in, drawings taken away."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from drelo.core.errors import Refusal
from drelo.core.lettering.fonts import font_of
from drelo.core.lettering.layout import Setting, letters
from drelo.core.outline.combine import combined
from drelo.core.outline.contour import Contour
from drelo.core.outline.fitting import outlines_of
from drelo.core.outline.grow import area_of
from drelo.core.outline.joining import joining_growth
from drelo.core.outline.outline import Outline
from drelo.core.outline.path_data import read_path, write_path
from drelo.core.outline.pour import Leak
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import DrawnPath, Point
from drelo.core.piece.edits import MoveSheet, Reshape
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.operations import Operation
from drelo.core.piece.shaping import shaped
from drelo.core.piece.shaping.areas import find_leak
from drelo.core.piece.shaping.workshop import Item, Known, items, origin_of
from drelo.core.piece.words import Offer, offers
from drelo.core.trace.trace import Line
from drelo.formats import foreign
from drelo.formats.drawing_in import Brought, Drawing, Reading
from drelo.formats.dxf import Layer, write_dxf
from drelo.formats.fonts import NAMES, shipped_font
from drelo.formats.png_out import MM_PER_INCH, on_white, write_png
from drelo.formats.svg import Drawing as Group
from drelo.formats.svg import write_svg
from drelo.formats.words_in import read_words
from drelo.work.tasks import Checkpoint, evaluation, picture_of

INK = "#000000"
# A drawing of the cabinet: px of its longer side as a picture, the margin round it, and mm of that side as outlines.
PICTURE, MARGIN, LARGE = 900, 0.06, 60.0
# A motif keeps its nodes to a ten-thousandth of a mm.
DIGITS = 4
MEDIA = {"svg": "image/svg+xml", "dxf": "image/vnd.dxf", "png": "image/png"}


def shape(
    checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], operation: Operation
) -> Reshape | MoveSheet:
    """The edit that an operation on outlines comes to. Raises Refusal with what to do instead."""
    return shaped(evaluation(checkpoint, assets).workshop(document), operation)


def leak(
    checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], at: Point, gap: float
) -> tuple[Leak, bool] | None:
    """The gap wider than `gap` (mm) through which a pour would run on, and whether something else holds it."""
    return find_leak(evaluation(checkpoint, assets).workshop(document), at, gap)


def joining(
    checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], picked: Sequence[str]
) -> tuple[float, int]:
    """The smallest growth, mm, that makes one part of all that is picked; and how many parts there are."""
    shop = evaluation(checkpoint, assets).workshop(document)
    outlines = [o for item in items(shop, picked) for o in item.outlines]
    parts = list(shapely.get_parts(area_of(outlines))) if outlines else []
    return joining_growth(parts), len(parts)


def look_at_drawing(checkpoint: Checkpoint, data: bytes, name: str, how: Reading) -> tuple[Drawing, str]:
    """A vector file looked at before it is placed, and its path data, mm."""
    drawing = foreign.drawing(data, name, how)
    checkpoint()
    return drawing, write_path([c for t in drawing.things for c in t.contours], 2)


def words(
    checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], name: str | None
) -> tuple[Offer, ...]:
    """The words in a picture of the piece, offered as lettering."""
    evaluated, placed = evaluation(checkpoint, assets), picture_of(document, name)
    lines = read_words(evaluated.picture(placed))
    checkpoint()
    fonts = {f"font:{name}": font_of(shipped_font(name)) for name in NAMES}
    return offers(evaluated.workshop(document), placed, lines, fonts)


def place_drawing(
    checkpoint: Checkpoint,
    document: Document,
    assets: Mapping[str, bytes],
    data: bytes,
    name: str,
    how: Reading,
    width: float | None,
    seed: str,
) -> Reshape:
    """The edit that puts a vector file on the sheet, in the middle of what is there. width: mm, in place of its own."""
    drawing = foreign.drawing(data, name, how)
    grown = width / drawing.width if width and drawing.width > 0 else 1.0
    x, y = _middle_of_sheet(evaluation(checkpoint, assets), document)
    dx, dy = x - drawing.width * grown / 2, y - drawing.height * grown / 2
    several = len({t.colour for t in drawing.things}) > 1
    put = tuple(
        DrawnPath(
            id=f"{seed}{number}",
            name=thing.name[:120],
            fill=thing.colour if several else None,
            path=write_path([c.transformed(grown, dx, dy) for c in thing.contours]),
        )
        for number, thing in enumerate(drawing.things)
    )
    return Reshape(name="drawing", put=put)


def rendered(checkpoint: Checkpoint, data: bytes) -> bytes:
    """An SVG as a picture to trace: PNG of PICTURE px on its longer side, black on white."""
    drawing = foreign.drawing(data, "drawing.svg")
    checkpoint()
    longer = max(drawing.width, drawing.height)
    margin = longer * MARGIN
    shapes = [
        (outline.transformed(1, margin, margin), INK) for thing in drawing.things for outline in _outlines_of(thing)
    ]
    dpi = PICTURE / (longer + 2 * margin) * MM_PER_INCH
    return on_white(write_png(shapes, drawing.width + 2 * margin, drawing.height + 2 * margin, dpi))


def place_collected(
    checkpoint: Checkpoint,
    document: Document,
    assets: Mapping[str, bytes],
    data: bytes,
    name: str,
    origin: str,
    seed: str,
) -> Reshape:
    """The edit that puts a drawing of the cabinet on the sheet as one thing, its longer side LARGE mm."""
    drawing = foreign.drawing(data, "drawing.svg")
    grown = LARGE / max(drawing.width, drawing.height)
    x, y = _middle_of_sheet(evaluation(checkpoint, assets), document)
    dx, dy = x - drawing.width * grown / 2, y - drawing.height * grown / 2
    whole = combined("unite", [outline for thing in drawing.things for outline in _outlines_of(thing)])
    path = write_path([c.transformed(grown, dx, dy) for outline in whole for c in outline.contours])
    return Reshape(name="cabinet", put=(DrawnPath(id=seed, name=name[:120], path=path, origin=origin[:400]),))


def _outlines_of(thing: Brought) -> list[Outline]:
    return outlines_of([c for c in thing.contours if c.closed])


def _middle_of_sheet(evaluated: Evaluation, document: Document) -> tuple[float, float]:
    """Where something new is put: the middle of what is there, or of a base that has a place of its own."""
    if document.base.at is not None:
        return document.base.at
    return _middle(evaluated.workshop(document).regions) if document.pictures or document.drawn else (0.0, 0.0)


def _middle(regions: Sequence[Known]) -> tuple[float, float]:
    boxes = np.array([r.shape.outline.outer.bounds for r in regions])
    if not len(boxes):
        return 0.0, 0.0
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    return float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2


@dataclass(frozen=True)
class OutlineFile:
    """A file of outlines. picked: only these; kept: the sheet's own origin instead of the corner of all.

    spline: of a DXF, else polylines within a tolerance, mm. dpi: of a PNG. width: of all, in place of their own, mm.
    middles: the middle lines of what was traced as strokes, with their widths, in place of outlines.
    """

    kind: Literal["svg", "dxf", "png"]
    picked: tuple[str, ...]
    spline: bool
    tolerance: float
    dpi: float
    kept: bool
    width: float | None = None
    middles: bool = False


Drawn = dict[tuple[str, str], tuple[list[Outline], list[Contour]]]
"""Closed outlines and open lines by name and colour."""


def outlines(checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], wanted: OutlineFile) -> bytes:
    """Outlines as SVG, DXF or PNG. Raises Refusal when there is nothing to write."""
    if wanted.middles:
        return _middle_lines(*evaluation(checkpoint, assets).middle_lines(document), wanted)
    shop = evaluation(checkpoint, assets).workshop(document)
    names = wanted.picked or [r.id for r in shop.regions] + [line.id for line in shop.art.lines]
    found = items(shop, names) if names else []
    contours = [c for item in found for c in _contours(item.outlines, item.lines)]
    if not contours:
        raise Refusal("export.no-outline", "picked")
    boxes = np.array([c.bounds for c in contours])
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    by = wanted.width / float(high[0] - low[0]) if wanted.width and high[0] > low[0] else 1.0
    dx, dy = (0.0, 0.0) if wanted.kept and wanted.kind == "dxf" else (-by * float(low[0]), -by * float(low[1]))
    width, height = (by * float(v) for v in high - low)
    told = origin_of(found)
    drawn: Drawn = {}
    for item in found:
        closed, lines = drawn.setdefault(_group(item), ([], []))
        closed.extend(o.transformed(by, dx, dy) for o in item.outlines)
        lines.extend(c.transformed(by, dx, dy) for c in item.lines)
    match wanted.kind:
        case "png":
            pieces = [(o.transformed(by, dx, dy), _group(item)[1]) for item in found for o in item.outlines]
            return write_png(pieces, width, height, wanted.dpi)
        case "svg":
            return _as_svg(drawn, width, height, told)
        case "dxf":
            # The drawing's origin is its lower left corner.
            return _as_dxf(drawn, 0.0 if wanted.kept else -height, wanted, told)


def _middle_lines(lines: Sequence[Line], shapes: Sequence[Outline], wanted: OutlineFile) -> bytes:
    """Middle lines, and filled shapes, mm on the sheet, as SVG with their widths or as DXF, a layer a width."""
    if wanted.kind == "png":
        raise Refusal("export.middles-kind", "kind")
    if not lines and not shapes:
        raise Refusal("export.no-middles", "middles")
    # A line reaches half its width beyond its middle.
    reaching = [np.array(n.contour.bounds) + n.width / 2 * np.array([-1, -1, 1, 1]) for n in lines]
    boxes = np.array([*reaching, *(np.array(s.outer.bounds) for s in shapes)])
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    by = wanted.width / float(high[0] - low[0]) if wanted.width and high[0] > low[0] else 1.0
    kept = wanted.kept and wanted.kind == "dxf"
    dx, dy = (0.0, 0.0) if kept else (-by * float(low[0]), -by * float(low[1]))
    width, height = (by * float(v) for v in high - low)
    placed = [line.transformed(by, dx, dy) for line in lines]
    filled = [shape.transformed(by, dx, dy) for shape in shapes]
    if wanted.kind == "svg":
        return write_svg([Group(filled)] if filled else [], width, height, lines=placed)
    by_name: dict[str, list[Contour]] = {}
    for line in placed:
        by_name.setdefault(f"{line.width:.1f} mm", []).append(line.contour)
    for shape in filled:
        by_name.setdefault("Filled", []).extend(shape.contours)
    up = 0.0 if kept else -height
    layers = [Layer(name, INK, [c.transformed(1, 0, up) for c in found]) for name, found in by_name.items()]
    return write_dxf(layers, "spline" if wanted.spline else "polyline", wanted.tolerance)


def _as_svg(drawn: Drawn, width: float, height: float, told: str) -> bytes:
    groups = [Group(closed, colour, name) for (name, colour), (closed, _) in drawn.items() if closed]
    hairs = [(line, colour) for (_, colour), (_, lines) in drawn.items() for line in lines]
    return write_svg(groups, width, height, hairs=hairs, told=told)


def _as_dxf(drawn: Drawn, up: float, wanted: OutlineFile, told: str) -> bytes:
    layers = [
        Layer(name or colour, colour, [c.transformed(1, 0, up) for c in _contours(closed, lines)])
        for (name, colour), (closed, lines) in drawn.items()
    ]
    return write_dxf(layers, "spline" if wanted.spline else "polyline", wanted.tolerance, told)


def _contours(closed: Sequence[Outline], lines: Sequence[Contour]) -> list[Contour]:
    return [*(c for o in closed for c in o.contours), *lines]


def _group(item: Item) -> tuple[str, str]:
    """Name and colour of the group that an item is written in."""
    if item.thing is not None:
        return item.thing.name, item.fill or INK
    choice = item.regions[0].choice if item.regions else None
    return (choice.name if choice and choice.name else ""), item.fill or INK


def motif(
    checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], picked: Sequence[str]
) -> tuple[str, float, float]:
    """What is picked as path data in mm, its corner at 0, 0; with its width and height. Raises Refusal when empty."""
    shop = evaluation(checkpoint, assets).workshop(document)
    return boxed([c for item in items(shop, picked) for c in item.contours])


def boxed(contours: Sequence[Contour]) -> tuple[str, float, float]:
    """Path data with its corner at 0, 0, and its width and height."""
    if not contours:
        raise Refusal("motif.nothing-picked", "picked")
    boxes = np.array([c.bounds for c in contours])
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    x, y = low.tolist()
    width, height = (high - low).tolist()
    return write_path([c.transformed(1, -x, -y) for c in contours], DIGITS), width, height


def place_motif(
    checkpoint: Checkpoint, document: Document, assets: Mapping[str, bytes], path: str, name: str, seed: str
) -> Reshape:
    """The edit that puts a motif in the middle of the sheet at its own size."""
    contours = read_path(path)
    boxes = np.array([c.bounds for c in contours])
    (width, height) = (boxes[:, 2:].max(axis=0)).tolist()
    x, y = _middle_of_sheet(evaluation(checkpoint, assets), document)
    placed = [c.transformed(1, x - width / 2, y - height / 2) for c in contours]
    return Reshape(name="motif", put=(DrawnPath(id=seed, name=name[:120], path=write_path(placed)),))


def read_font(checkpoint: Checkpoint, data: bytes) -> str:
    """The name of a maker's own font. Raises Refusal when it is none."""
    name = foreign.check_font(data)
    checkpoint()
    return name or "Own font"


def font_sample(checkpoint: Checkpoint, name: str, text: str) -> tuple[str, float, float]:
    """A few words in a shipped font: path data, width and height, capitals 10 units high."""
    found = letters(text, font_of(shipped_font(name)), Setting(height=10.0))
    checkpoint()
    return boxed([c for o in found for c in o.contours])
