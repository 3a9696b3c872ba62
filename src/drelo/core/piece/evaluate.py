"""From a document and its assets to the flat view, the screen's surface and the bodies.

Pure, and remembered stage by stage.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import Base, base_plate
from drelo.core.form.columns import Design
from drelo.core.form.relief import Height, Part, relief
from drelo.core.outline.outline import Outline, bounds
from drelo.core.picture.care import cared
from drelo.core.picture.decode import Picture, decode
from drelo.core.picture.field import tones
from drelo.core.picture.palette import colour_distance
from drelo.core.piece.document import Document, RegionChoice
from drelo.core.piece.memo import Memo
from drelo.core.region.arrangement import Arrangement
from drelo.core.region.identity import Footprint, footprint, recognise
from drelo.core.solid.mesh import Mesh
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.surface import Surface, plan, surface
from drelo.core.trace.modes import trace as trace_picture
from drelo.core.trace.trace import Swatch, Trace

# Chord tolerances, mm: for the screen, and for files by the name of their fineness.
SCREEN = 0.02
FINENESS = {"draft": 0.05, "normal": 0.008, "fine": 0.002}

T = TypeVar("T")
Assets = Callable[[str], bytes]
"""Bytes of an asset by its hash."""


@dataclass(frozen=True)
class FlatRegion:
    """One region of the flat view.

    path: SVG path data in mm on the sheet: x right, y down, the art's box starts at 0, 0.
    height: mm above the base's top, or "through". colour: #rrggbb in the picture, in mode colours.
    decided: the maker chose it for this region.
    mark: how the region is recognised again, px of the picture.
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
    mark: Footprint


@dataclass(frozen=True)
class Underlay:
    """Where the picture lies on the sheet, mm, and the name of its look after its care."""

    look: str
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Flat:
    """All that the flat view and the tuning show. Lengths in mm, level 0..1, speck px².

    tones: how much of the picture is of each darkness, from light to dark, the fullest 1.
    lost_path: what was dropped as specks. stroke_width: the usual width of middle lines, mm.
    """

    width: float
    height: float
    mm_per_px: float
    underlay: Underlay | None
    regions: tuple[FlatRegion, ...]
    base_path: str
    base_box: tuple[float, float, float, float] | None
    level: float | None
    speck: float | None
    dropped: int
    nodes: int
    total_height: float
    remarks: tuple[str, ...]
    swatches: tuple[Swatch, ...] = ()
    tones: tuple[float, ...] = ()
    lost_path: str = ""
    stroke_width: float | None = None


@dataclass(frozen=True, eq=False)
class Raised:
    """The surface for the screen. `regions` names each layer: a region's id, or "base". size in mm."""

    surface: Surface
    regions: tuple[str, ...]
    colours: tuple[str, ...]
    size: tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Built:
    """Sealed meshes for files: one a filament with its name and colour, and the one surface of all."""

    bodies: tuple[tuple[str, str, Mesh], ...]
    whole: Mesh
    remarks: tuple[str, ...]


class Evaluation:
    """Evaluates documents with a memory.

    checkpoint: called between stages; it may raise Superseded to end work that nobody waits for any more.
    """

    def __init__(self, assets: Assets, memo: Memo, checkpoint: Callable[[], None] = lambda: None) -> None:
        self._assets = assets
        self._memo = memo
        self._checkpoint = checkpoint

    def _stage(self, key: Hashable, compute: Callable[[], T]) -> T:
        self._checkpoint()
        return self._memo.get(key, compute)

    def picture(self, document: Document) -> Picture:
        """Raises Refusal when the piece has no picture."""
        source = document.source
        if source is None:
            raise Refusal("The piece has no picture yet. Drop one on the page to begin.", "source")
        original = self.asset_picture(source.asset)
        if not source.care:
            return original
        return self._stage(("cared", source.look), lambda: cared(original, source.steps))

    def asset_picture(self, sha256: str) -> Picture:
        """A decoded picture. Raises Refusal when its bytes cannot be used."""
        return self._stage(("picture", sha256), lambda: decode(self._assets(sha256)))

    def trace(self, document: Document) -> Trace:
        return self._stage(
            _trace_key(document), lambda: trace_picture(self.picture(document), document.trace.to_core())
        )

    def _regions(self, document: Document) -> tuple[tuple[Outline, Footprint, str, RegionChoice | None], ...]:
        outlines = self.trace(document).outlines
        key = ("marks", _trace_key(document))
        rough, marks = self._stage(key, lambda: _marks(outlines))
        known = [Footprint(c.mark.anchor, c.mark.box) for c in document.regions]
        found: dict[int, RegionChoice] = {
            at: choice for choice, at in zip(document.regions, recognise(known, rough), strict=True) if at is not None
        }
        return tuple(
            (outline, mark, found[i].id if i in found else _new_id(mark), found.get(i))
            for i, (outline, mark) in enumerate(zip(outlines, marks, strict=True))
        )

    def _scale(self, document: Document) -> tuple[float, float, float]:
        """mm per px, and the left and top of the art's box in px."""
        box = bounds(self.trace(document).outlines)
        if box is None:
            raise Refusal("There is nothing to trace in the picture.", "level")
        side = box[2] - box[0] if document.size.side == "width" else box[3] - box[1]
        return document.size.mm / side, box[0], box[1]

    def _shapes(self, document: Document, tolerance: float) -> tuple[BaseGeometry, ...]:
        """Every region, flattened, mm, y up, the art's box at 0, 0, its typed side exact."""

        def compute() -> tuple[BaseGeometry, ...]:
            scale, _, _ = self._scale(document)
            flat = [o.flattened(tolerance / scale) for o in self.trace(document).outlines]
            boxes = np.array([g.bounds for g in flat if not g.is_empty])
            low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
            side = 0 if document.size.side == "width" else 1
            exact = document.size.mm / (high[side] - low[side])
            factor, move = np.array([exact, -exact]), np.array([-low[0] * exact, high[1] * exact])
            return tuple(shapely.transform(g, lambda xy: xy * factor + move) for g in flat)

        return self._stage(_shape_key(document, tolerance), compute)

    def flat(self, document: Document) -> Flat:
        """Outlines, regions and figures. Raises Refusal when a setting leaves nothing."""
        if document.source is None:
            return Flat(0, 0, 0, None, (), "", None, None, None, 0, 0, 0, ())
        picture, trace = self.picture(document), self.trace(document)
        scale, left, top = self._scale(document)
        regions = []
        for number, (outline, mark, identifier, choice) in enumerate(self._regions(document)):
            placed = outline.transformed(scale, -left * scale, -top * scale)
            fill = trace.fills[number] if trace.fills else None
            regions.append(_flat_region(document, number, placed, mark, identifier, choice, fill))
        design = self.design(document, SCREEN)
        box = bounds(trace.outlines) or (0, 0, 0, 0)
        width, height = (box[2] - box[0]) * scale, (box[3] - box[1]) * scale
        plate = design.layers[0] if document.base.shape != "none" else shapely.Polygon()
        return Flat(
            width=width,
            height=height,
            mm_per_px=scale,
            underlay=Underlay(
                document.source.look, -left * scale, -top * scale, picture.width * scale, picture.height * scale
            ),
            regions=tuple(regions),
            base_path=_sheet_path(plate, height),
            base_box=None if plate.is_empty else _sheet_box(plate.bounds, height),
            level=trace.level,
            speck=trace.speck,
            dropped=trace.dropped,
            nodes=sum(r.nodes for r in regions),
            total_height=max((band.top for column in design.columns for band in column), default=0.0),
            remarks=(*design.remarks, *_lost(document, {r.id for r in regions})),
            swatches=trace.swatches,
            tones=self._stage(("tones", document.source.look), lambda: tones(picture)),
            lost_path=_rings_path(trace.lost, scale, left, top),
            stroke_width=float(np.median([n.width for n in trace.lines])) * scale if trace.lines else None,
        )

    def design(self, document: Document, tolerance: float) -> Design:
        """The form worked out. Raises Refusal with the field that does not fit."""
        shapes = self._shapes(document, tolerance)
        fills = self.trace(document).fills
        parts = []
        for number, (shape, (_, _, _, choice)) in enumerate(zip(shapes, self._regions(document), strict=True)):
            height = document.default_height if choice is None or choice.height is None else choice.height
            identifier = (choice and choice.filament) or _usual(document, fills[number] if fills else None)
            name = (choice and choice.name) or f"Region {number + 1}"
            parts.append(Part(shape, height, document.filament(identifier).colour, name, "height"))
        base = document.base
        numbers = Base(
            base.shape,
            base.margin,
            base.thickness,
            base.corner_radius,
            document.filament(base.filament).colour,
        )
        # The footprint is the costly part and does not depend on heights.
        plate_key = (*_shape_key(document, tolerance), base.shape, base.margin, base.corner_radius)
        plate = self._stage(
            ("plate", plate_key), lambda: base_plate(numbers, shapely.union_all(np.array(shapes)), tolerance)
        )
        return relief(parts, numbers, tolerance, plate)

    def _arrangement(self, document: Document, design: Design, tolerance: float) -> Arrangement:
        base = document.base
        key = ("arrangement", *_shape_key(document, tolerance), base.shape, base.margin, base.corner_radius)
        return self._stage(key, lambda: arrange_design(design))

    def raised(self, document: Document) -> Raised:
        """The surface for the screen."""
        design = self.design(document, SCREEN)
        arrangement = self._arrangement(document, design, SCREEN)
        base = document.base
        key = ("plan", *_shape_key(document, SCREEN), base.shape, base.margin, base.corner_radius)
        cut = self._stage(key, lambda: plan(arrangement))
        outer = surface(cut, design.columns)
        names = [identifier for _, _, identifier, _ in self._regions(document)]
        regions = tuple((["base"] if base.shape != "none" else []) + names)
        points = outer.triangles.reshape(-1, 3)
        size = np.ptp(points, axis=0) if len(points) else np.zeros(3)
        return Raised(outer, regions, tuple(f.colour for f in design.filaments), _triple(size))

    def built(self, document: Document, fineness: str) -> Built:
        """Sealed meshes at a fineness. Raises Refusal when there is nothing to build."""
        tolerance = FINENESS[fineness]
        design = self.design(document, tolerance)
        arrangement = self._arrangement(document, design, tolerance)
        bodies = []
        for number, filament in enumerate(design.filaments):
            self._checkpoint()
            mesh = raise_body(design, arrangement, number)
            if len(mesh.faces):
                label = next((f.name for f in document.filaments if f.colour == filament.colour), filament.name)
                bodies.append((label, filament.colour, mesh))
        self._checkpoint()
        return Built(tuple(bodies), raise_body(design, arrangement), design.remarks)


def _trace_key(document: Document) -> tuple[Hashable, ...]:
    return ("trace", document.source and document.source.look, document.trace.to_core())


def _shape_key(document: Document, tolerance: float) -> tuple[Hashable, ...]:
    return ("shapes", _trace_key(document), document.size, tolerance)


def _marks(outlines: tuple[Outline, ...]) -> tuple[list[BaseGeometry], list[Footprint]]:
    rough = [o.flattened(0.5) for o in outlines]
    return rough, [footprint(g) for g in rough]


def _new_id(mark: Footprint) -> str:
    return "r" + hashlib.sha256(repr((mark.anchor, mark.box)).encode()).hexdigest()[:10]


def _flat_region(
    document: Document,
    number: int,
    placed: Outline,
    mark: Footprint,
    identifier: str,
    choice: RegionChoice | None,
    fill: str | None,
) -> FlatRegion:
    own_height = None if choice is None else choice.height
    own_filament = None if choice is None else choice.filament
    box = placed.outer.bounds
    return FlatRegion(
        id=identifier,
        name=(choice and choice.name) or f"Region {number + 1}",
        path=placed.path_data(3),
        area=placed.area,
        nodes=placed.nodes,
        box=(box[0], box[1], box[2] - box[0], box[3] - box[1]),
        height=document.default_height if own_height is None else own_height,
        filament=document.filament(own_filament or _usual(document, fill)).id,
        colour=fill,
        decided_height=own_height is not None,
        decided_filament=own_filament is not None,
        mark=mark,
    )


def _underlay(look: str, picture: Picture, scale: float, left: float, top: float) -> Underlay:
    return Underlay(look, -left * scale, -top * scale, picture.width * scale, picture.height * scale)


def _usual(document: Document, fill: str | None) -> str:
    """The filament of a region for which none was decided: the one nearest to its colour, else the piece's."""
    if fill is None:
        return document.default_filament
    return min(document.filaments, key=lambda f: colour_distance(f.colour, fill)).id


def _rings_path(rings: tuple[NDArray[np.float64], ...], scale: float, left: float, top: float) -> str:
    parts = []
    for ring in rings:
        points = (ring - (left, top)) * scale
        parts.append("M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in points.tolist()) + "Z")
    return "".join(parts)


def _lost(document: Document, present: set[str]) -> list[str]:
    gone = [c for c in document.regions if c.id not in present]
    if not gone:
        return []
    names = ", ".join(c.name or "a region" for c in gone[:3])
    return [f"No longer found in the trace: {names}. What was decided for it waits until it is back."]


def _sheet_path(shape: BaseGeometry, height: float) -> str:
    parts = []
    for ring in shapely.get_rings(shapely.get_parts(shape)):
        points = shapely.get_coordinates(ring)[:-1]
        parts.append("M" + "L".join(f"{x:.3f} {height - y:.3f}" for x, y in points.tolist()) + "Z")
    return "".join(parts)


def _sheet_box(box: tuple[float, float, float, float], height: float) -> tuple[float, float, float, float]:
    return box[0], height - box[3], box[2] - box[0], box[3] - box[1]


def _triple(values: NDArray[np.float64]) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])
