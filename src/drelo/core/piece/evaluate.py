"""From a document and its assets to the flat view, the screen's surface and the bodies.

Pure, and remembered stage by stage.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import TypeVar

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import TypeAdapter
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import Base, base_plate
from drelo.core.form.columns import Design
from drelo.core.form.cutter import cutter, nearest_shapes
from drelo.core.form.nameplate import nameplate
from drelo.core.form.relief import Height, Part, relief
from drelo.core.form.stamp import stamp
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline, bounds
from drelo.core.picture.care import cared
from drelo.core.picture.decode import Picture, decode
from drelo.core.picture.field import border_ink, tones
from drelo.core.piece.art import (
    WORKING_PIXELS,
    Art,
    Shape,
    art_key,
    art_of,
    drawn_art,
    together,
    working_factor,
)
from drelo.core.piece.document import BasePlate, Document, Drawn, Mark, RegionChoice
from drelo.core.piece.edits import Picked
from drelo.core.piece.flat import (
    NOTHING,
    Flat,
    FlatArea,
    FlatLine,
    FlatTrace,
    Sheet,
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
    region_name,
    sheet_box,
    sheet_path,
    usual_filament,
)
from drelo.core.piece.form_numbers import BaseNumbers
from drelo.core.piece.look_over import LookOver, look_over
from drelo.core.piece.memo import Memo
from drelo.core.piece.shaping import Known, Workshop
from drelo.core.piece.weak_spots import Standing, WeakPlace, weak_places
from drelo.core.region.arrangement import Arrangement
from drelo.core.region.identity import Footprint, footprint, recognise
from drelo.core.rehearsal.reach import beyond_reach
from drelo.core.solid.mesh import Mesh
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.surface import NO_TOP, Surface, divided, plan, surface

# Chord tolerances of the screen, mm, each up to so many nodes: what is many is shown small.
SCREEN = ((2_000, 0.02), (10_000, 0.04))
SCREEN_OF_MOST = 0.08

T = TypeVar("T")
Assets = Callable[[str], bytes]
"""Bytes of an asset by its hash."""


@dataclass(frozen=True, eq=False)
class Region:
    """A shape of the art with what was decided for it. mark: how it is recognised again."""

    shape: Shape
    mark: Footprint
    id: str
    choice: RegionChoice | None

    @property
    def left_out(self) -> bool:
        return self.choice is not None and self.choice.left_out


@dataclass(frozen=True, eq=False)
class Raised:
    """The surface for the screen. `regions` names each layer: a region's id, or "base". size in mm.

    heights: of each raised region that can be moved alone, mm, by id. rising: what goes along with them, shape (n, 4),
    as the surface's `tops`.
    """

    surface: Surface
    regions: tuple[str, ...]
    colours: tuple[str, ...]
    size: tuple[float, float, float]
    heights: Mapping[str, float]
    rising: NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Built:
    """Sealed meshes for files: one a filament with its name and colour, and the one surface of all."""

    bodies: tuple[tuple[str, str, Mesh], ...]
    whole: Mesh
    design: Design


# The bytes of what was drawn are its key: to write them takes a fraction of comparing or printing it.
_DRAWN = TypeAdapter(tuple[Drawn, ...])


class Evaluation:
    """Evaluates documents with a memory.

    checkpoint: called between stages; it may raise Superseded to end work that nobody waits for any more.
    most: pictures with more pixels are worked on reduced; with less than the usual number, quickly as well.
    """

    def __init__(
        self,
        assets: Assets,
        memo: Memo,
        checkpoint: Callable[[], None] = lambda: None,
        most: int = WORKING_PIXELS,
    ) -> None:
        self._assets = assets
        self._memo = memo
        self._checkpoint = checkpoint
        self._most = most
        self._quick = most < WORKING_PIXELS
        # Of each document, held so that its number stays its own: the key of its art, and its regions.
        self._known: dict[int, tuple[Document, tuple[Hashable, ...]]] = {}
        self._seen: dict[int, tuple[Document, tuple[Region, ...]]] = {}

    def _stage(self, key: Hashable, compute: Callable[[], T]) -> T:
        self._checkpoint()
        return self._memo.get(key, compute)

    def _each(self, key: Hashable, compute: Callable[[], T]) -> T:
        return self._memo.small(key, compute)

    def picture(self, document: Document) -> Picture:
        """Raises Refusal when the piece has no picture."""
        source = document.source
        if source is None:
            raise Refusal("The piece has no picture yet. Drop one on the page to begin.", "source")
        original = self.asset_picture(source.asset)
        if not source.steps:
            return original
        return self._stage(("cared", source.look), lambda: cared(original, source.steps))

    def asset_picture(self, sha256: str) -> Picture:
        """A decoded picture. Raises Refusal when its bytes cannot be used."""
        return self._stage(("picture", sha256), lambda: decode(self._assets(sha256)))

    def art(self, document: Document) -> Art:
        """All outlines. Raises Refusal when a setting leaves nothing."""

        def compute() -> Art:
            drawn = drawn_art(document, self._assets, self._each)
            if document.source is None:
                return drawn
            picture = self.picture(document)
            factor = working_factor(document, picture, self._most)
            key = art_key(document.model_copy(update={"drawn": ()}), factor, self._quick)
            traced = self._stage(key, lambda: art_of(document, picture, factor, self._stage, self._stage, self._quick))
            return together(traced, drawn)

        return self._stage(("all", *self._art_key(document)), compute)

    def _art_key(self, document: Document) -> tuple[Hashable, ...]:
        """All that the art follows from, worked out once a document: of many outlines it is long."""
        found = self._known.get(id(document))
        if found is None:
            factor = 1 if document.source is None else working_factor(document, self.picture(document), self._most)
            rest = repr(art_key(document.model_copy(update={"drawn": ()}), factor, self._quick)).encode()
            digest = hashlib.sha256(_DRAWN.dump_json(document.drawn) + rest).hexdigest()
            found = self._known[id(document)] = (document, ("art", digest))
        return found[1]

    def _regions(self, document: Document) -> tuple[Region, ...]:
        """Every region, looked up once a document: what was decided for many is a long key."""
        found = self._seen.get(id(document))
        if found is None:
            found = self._seen[id(document)] = (document, self._recognised(document))
        return found[1]

    def _recognised(self, document: Document) -> tuple[Region, ...]:
        shapes = self.art(document).shapes
        rough, marks = self._stage(("marks", self._art_key(document)), lambda: self._marks(shapes))

        def recognised() -> tuple[Region, ...]:
            # Drawn things keep their names; what was traced is recognised by where it lies.
            fixed = [_drawn_id(shape) for shape in shapes]
            names = set(fixed)
            by_name = {c.id: c for c in document.regions if c.id in names}
            loose = [c for c in document.regions if c.id not in names]
            traced = [i for i, name in enumerate(fixed) if name is None]
            known = [Footprint(c.mark.anchor, c.mark.box) for c in loose]
            places = zip(loose, recognise(known, [rough[i] for i in traced]), strict=True)
            found: dict[int, RegionChoice] = {traced[at]: choice for choice, at in places if at is not None}
            result = []
            for i, (shape, mark, name) in enumerate(zip(shapes, marks, fixed, strict=True)):
                choice = by_name.get(name) if name else found.get(i)
                result.append(Region(shape, mark, name or (choice.id if choice else _new_id(mark)), choice))
            return tuple(result)

        return self._stage(("regions", self._art_key(document), document.regions), recognised)

    def _marks(self, shapes: Sequence[Shape]) -> tuple[list[BaseGeometry], list[Footprint]]:
        # What was changed by hand is still known by where it was traced.
        found = [self._each(("mark", o), partial(_mark, o)) for o in (s.traced or s.outline for s in shapes)]
        return [rough for rough, _ in found], [mark for _, mark in found]

    def kept(self, document: Document) -> tuple[Region, ...]:
        """Regions that are not left out. Raises Refusal when there are none."""
        kept = tuple(r for r in self._regions(document) if not r.left_out)
        if not kept:
            raise Refusal("No region is left. Take one back that was left out, or trace or draw another.", "regions")
        return kept

    def sheet(self, document: Document) -> Sheet:
        """How art units lie on the sheet: with a picture by the size of what was traced, else as they are, mm."""
        if document.source is None:
            return Sheet(1.0, 0.0, 0.0)
        # A scale that is known does not hang on what is left of the trace, nor does the sheet's corner.
        whole = document.size.side == "between"
        traced = [r for r in self._regions(document) if r.shape.drawn is None]
        box = bounds(r.shape.outline for r in traced if whole or not r.left_out)
        if box is None:
            # Nothing is traced: the picture itself has the typed size.
            picture = self.picture(document)
            box = (0.0, 0.0, float(picture.width), float(picture.height))
        size = document.size
        if size.side == "between" and size.points is not None:
            return Sheet(size.mm / math.dist(*size.points), box[0], box[1])
        return Sheet(size.mm / (box[2] - box[0] if size.side == "width" else box[3] - box[1]), box[0], box[1])

    def _shape_key(self, document: Document, tolerance: float) -> tuple[Hashable, ...]:
        # In whole-number places of the art: what is left out is part of what the shapes are.
        out = tuple(r.id for r in self._regions(document) if r.left_out)
        return ("shapes", self._art_key(document), out, document.size, tolerance)

    def _shapes(self, document: Document, tolerance: float) -> tuple[BaseGeometry, ...]:
        """Every region, flattened, mm, y up, the art's box at 0, 0, its typed side exact."""

        def compute() -> tuple[BaseGeometry, ...]:
            sheet, kept = self.sheet(document), self.kept(document)
            chord = tolerance / sheet.scale
            outlines = [r.shape.outline for r in kept]
            flat = [self._each(("flat", o, chord), partial(o.flattened, chord)) for o in outlines]
            boxes = shapely.bounds([g for g in flat if not g.is_empty])
            low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
            exact = self._exact(document, flat, kept, sheet)
            factor, move = np.array([exact, -exact]), np.array([-low[0] * exact, high[1] * exact])
            return tuple(shapely.transform(np.array(flat), lambda xy: xy * factor + move))

        return self._stage(self._shape_key(document, tolerance), compute)

    def _exact(self, document: Document, flat: Sequence[BaseGeometry], kept: Sequence[Region], sheet: Sheet) -> float:
        """mm an art unit at which the typed side of the flattened trace is exact."""
        size = document.size
        traced = [g for g, r in zip(flat, kept, strict=True) if r.shape.drawn is None and not g.is_empty]
        if document.source is None or not traced or size.side == "between":
            return sheet.scale
        boxes = np.array([g.bounds for g in traced])
        side = 0 if size.side == "width" else 1
        return size.mm / float(boxes[:, 2 + side].max() - boxes[:, side].min())

    def flat(self, document: Document) -> Flat:
        """Outlines, regions and figures. Raises Refusal when a setting leaves nothing."""
        if document.source is None and not document.drawn:
            return NOTHING
        digest = hashlib.sha256(document.model_dump_json().encode()).hexdigest()
        return self._stage(("flat view", digest, self._most), lambda: self._flat(document))

    def _flat(self, document: Document) -> Flat:
        art, sheet = self.art(document), self.sheet(document)
        things = {t.id: t for t in document.drawn}
        usual = {fill: usual_filament(document, fill) for fill in {s.fill for s in art.shapes}}
        regions = [
            flat_region(
                document,
                number,
                self._each(("placed", r.shape.outline, sheet), partial(placed, r.shape.outline, sheet)),
                r.mark,
                r.id,
                r.choice,
                r.shape,
                usual[r.shape.fill],
                region_name(things, number, r.shape.drawn),
            )
            for number, r in enumerate(self._regions(document))
        ]
        rows = tuple(
            self._each(("thing row", i, contours, sheet), partial(flat_thing, i, contours, sheet))
            for i, contours in art.things
        )
        box = bounds(r.shape.outline for r in self._regions(document) if not r.left_out)
        corners = sheet.place(np.array(box or (0.0, 0.0, 0.0, 0.0)).reshape(2, 2))
        (left, top), (width, height) = corners[0].tolist(), (corners[1] - corners[0]).tolist()
        design = self.design(document, self.screen(document)) if box else None
        plate = (design and design.footprint) or shapely.Polygon()
        product = (design and design.product) or shapely.Polygon()
        columns = design.columns if design else ()
        high = max((band.top for column in columns for band in column), default=0.0)
        x0, y0, x1, y1 = (0.0, 0.0, 0.0, 0.0) if plate.is_empty else plate.bounds
        size = (max(x1 - x0, width), max(y1 - y0, height), high)
        traces = self._flat_traces(document, sheet)
        return Flat(
            left=left,
            top=top,
            width=width,
            height=height,
            mm_per_px=sheet.scale,
            origin=(-sheet.left * sheet.scale, -sheet.top * sheet.scale),
            underlay=self._underlay(document, sheet),
            regions=tuple(regions),
            base_path=sheet_path(plate, left, top + height),
            base_box=None if plate.is_empty else sheet_box(plate.bounds, left, top + height),
            product_path=sheet_path(product, left, top + height),
            overhang_path=sheet_path((design and design.overhang) or shapely.Polygon(), left, top + height),
            traces=traces,
            areas=tuple(
                FlatArea(a.id, a.name, sheet.rings([np.array(a.corners, np.float64)], 3)) for a in document.areas
            ),
            lines=tuple(_flat_line(document, identifier, contour, sheet) for identifier, contour in art.lines),
            things=rows,
            nodes=sum(r.nodes for r in regions if not r.left_out),
            total_height=high,
            reduced=self._reduced(document),
            remarks=(
                *(design.remarks if design else ()),
                *(beyond_reach(size, document.nozzle) if design else ()),
                *lost_regions(document, {r.id for r in regions}),
                *lost_mends(art.lost),
                *crowd_of(len(regions)),
                *dark_ground(traces),
                *_unfinished(len(art.lines)),
                *crossings_of(rows, things),
            ),
        )

    def _underlay(self, document: Document, sheet: Sheet) -> Underlay | None:
        if document.source is None:
            return None
        picture = self.picture(document)
        return Underlay(
            document.source.look,
            -sheet.left * sheet.scale,
            -sheet.top * sheet.scale,
            picture.width * sheet.scale,
            picture.height * sheet.scale,
            (picture.width, picture.height),
        )

    def _flat_traces(self, document: Document, sheet: Sheet) -> tuple[FlatTrace, ...]:
        if document.source is None:
            return ()
        picture = self.picture(document)
        dark = self._stage(("tones", document.source.look), lambda: tones(picture))
        return tuple(
            flat_trace(area, trace, sheet, dark, self._border(document, area, trace.level))
            for area, trace in self.art(document).traces
        )

    def _border(self, document: Document, area: str | None, level: float | None) -> float:
        """Share of the picture's border that is dark and traced as ink."""
        if document.source is None or area is not None or level is None or document.trace.invert:
            return 0.0
        picture = self.picture(document)
        return self._stage(("border", document.source.look, level), lambda: border_ink(picture, level))

    def _reduced(self, document: Document) -> int:
        return 1 if document.source is None else working_factor(document, self.picture(document), self._most)

    def workshop(self, document: Document) -> Workshop:
        """What operations on outlines need to know. Regions that are left out are no part of it."""
        regions = tuple(Known(r.id, r.shape, r.mark, r.choice) for r in self._regions(document) if not r.left_out)
        return Workshop(document, self.art(document), regions, self.sheet(document).scale, self._assets)

    def look_over(self, document: Document) -> LookOver:
        """Narrow places and rough spots of what is kept. Raises Refusal when nothing is."""
        kept, sheet = self.kept(document), self.sheet(document)
        picture = None if document.source is None else self.picture(document)
        even = frozenset(area for area, trace in self.art(document).traces if trace.lines)
        return look_over(picture, [region.shape for region in kept], sheet, even)

    def weak_places(self, document: Document) -> tuple[WeakPlace, ...]:
        """Places that a print would not forgive. Raises Refusal when there is nothing to build."""
        flat, tolerance = self.flat(document), self.screen(document)
        shapes, parts = self._shapes(document, tolerance), self.kept(document)
        standing = [
            Standing(Picked(id=r.id, mark=Mark(anchor=r.mark.anchor, box=r.mark.box)), shape, self._height(document, r))
            for shape, r in zip(shapes, parts, strict=True)
        ]
        return weak_places(document, self.design(document, tolerance), standing, flat.left, flat.top + flat.height)

    def _height(self, document: Document, region: Region) -> Height:
        choice = region.choice
        return document.default_height if choice is None or choice.height is None else choice.height

    def design(self, document: Document, tolerance: float) -> Design:
        """The form worked out. Raises Refusal with the field that does not fit."""
        shapes = self._shapes(document, tolerance)
        colour = document.filament(document.base.filament).colour
        if document.form in ("stamp", "cutter"):
            numbers = document.stamp if document.form == "stamp" else document.cutter
            key = ("form", *self._shape_key(document, tolerance), document.base, numbers, colour, document.layer)

            def compute() -> Design:
                if document.form == "stamp":
                    return stamp(shapes, document.stamp.to_core(_given(document), colour, document.layer), tolerance)
                return cutter(shapes, document.cutter.to_core(colour, document.layer), tolerance)

            return self._stage(key, compute)
        parts = self._parts(document, shapes)
        if document.form == "nameplate":
            return nameplate(parts, document.nameplate.to_core(_given(document), colour), tolerance)
        base = document.base
        plain = Base(base.shape, base.margin, base.thickness, base.corner_radius, colour, base.block, base.keep_holes)
        # The footprint is the costly part and does not depend on heights.
        plate_key = ("plate", *self._shape_key(document, tolerance), *_outline_of(base))
        plate = self._stage(plate_key, lambda: base_plate(plain, shapely.geometrycollections(shapes), tolerance))
        return relief(parts, plain, tolerance, plate, document.relief.to_core(document.layer))

    def _parts(self, document: Document, shapes: tuple[BaseGeometry, ...]) -> list[Part]:
        parts = []
        things = {t.id: t for t in document.drawn}
        for number, (shape, region) in enumerate(zip(shapes, self.kept(document), strict=True)):
            choice = region.choice
            height = self._height(document, region)
            identifier = (choice and choice.filament) or usual_filament(document, region.shape.fill)
            name = (choice and choice.name) or region_name(things, number, region.shape.drawn)
            edge = ((choice and choice.edge) or document.default_edge).to_core()
            parts.append(Part(shape, height, document.filament(identifier).colour, name, "height", edge, number))
        return parts

    def decided(self, document: Document) -> list[tuple[Outline, Part]]:
        """Every kept region as it lies on the sheet, mm, y down, with what was decided for it."""
        sheet = self.sheet(document)
        parts = self._parts(document, self._shapes(document, self.screen(document)))
        return [(sheet.outline(r.shape.outline), p) for r, p in zip(self.kept(document), parts, strict=True)]

    def _layers_key(self, document: Document, tolerance: float) -> tuple[Hashable, ...]:
        """All that the design's layers follow from; heights are no part of it where they do not change layers."""
        key = (*self._shape_key(document, tolerance), document.form, document.layer)
        if document.form == "relief":
            edges = [c.edge for c in document.regions if c.edge] + [document.default_edge]
            if all(edge.kind == "straight" for edge in edges):
                numbers = document.relief
                return (*key, *_outline_of(document.base), numbers.rim_width, numbers.clip)
        heights = (document.regions, document.default_height, document.default_edge)
        return (*key, document.base, document.relief, document.stamp, document.cutter, document.nameplate, heights)

    def _arrangement(self, document: Document, design: Design, tolerance: float) -> Arrangement:
        key = ("arrangement", *self._layers_key(document, tolerance))
        return self._stage(key, lambda: arrange_design(design))

    def screen(self, document: Document) -> float:
        """The chord tolerance that the screen shows, mm."""
        nodes = sum(r.shape.outline.nodes for r in self._regions(document) if not r.left_out)
        return next((tolerance for most, tolerance in SCREEN if nodes <= most), SCREEN_OF_MOST)

    def raised(self, document: Document) -> Raised:
        """The surface for the screen."""
        tolerance = self.screen(document)
        design = self.design(document, tolerance)
        arrangement = self._arrangement(document, design, tolerance)
        cut = self._stage(("plan", *self._layers_key(document, tolerance)), lambda: plan(arrangement))
        kept = self.kept(document)
        owners = design.owners or (-1,) * len(design.layers)
        outer = surface(cut, design.columns, owners if design.datum is not None else ())
        heights, rising = _rising(design, owners, outer.tops)
        names = [region.id for region in kept]
        regions = tuple(names[owner] if owner >= 0 else "base" for owner in owners)
        if document.form == "cutter":
            # A blade goes round many regions at once: each part of it counts as the nearest one's.
            near = self._nearest(document, tolerance, arrangement, outer)
            outer, regions = divided(outer, near), tuple(names)
        points = outer.triangles.reshape(-1, 3)
        # Axis by axis: over short rows the library is ten times as slow.
        x, y, z = (float(np.ptp(axis)) if len(points) else 0.0 for axis in points.T)
        by_id = {names[owner]: height for owner, height in heights.items()}
        return Raised(outer, regions, tuple(f.colour for f in design.filaments), (x, y, z), by_id, rising)

    def _nearest(
        self, document: Document, tolerance: float, arrangement: Arrangement, outer: Surface
    ) -> NDArray[np.int64]:
        """The number of the region that is nearest to each triangle of a cutter."""

        def compute() -> NDArray[np.int64]:
            origin = arrangement.vertices.min(axis=0) * arrangement.grid
            middles = outer.triangles[:, :, :2].mean(axis=1, dtype=np.float64) + origin
            return nearest_shapes(self._shapes(document, tolerance), middles)

        return self._stage(("nearest", *self._layers_key(document, tolerance)), compute)

    def built(self, document: Document, tolerance: float) -> Built:
        """Sealed meshes with curves within a tolerance, mm. Raises Refusal when there is nothing to build."""
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
        return Built(tuple(bodies), raise_body(design, arrangement), design)


def _rising(
    design: Design, owners: tuple[int, ...], tops: NDArray[np.int64]
) -> tuple[dict[int, float], NDArray[np.int64]]:
    """Height of each owner that stands above the design's datum, and the surface's tops that go along with one."""
    if design.datum is None:
        return {}, tops[:0]
    level = [column[-1].top if column else 0.0 for column in design.columns]
    moves = np.array([owner >= 0 and top > design.datum for owner, top in zip(owners, level, strict=True)] + [False])
    ends = np.where(moves[tops[:, 2:]], tops[:, 2:], NO_TOP)
    heights: dict[int, float] = {}
    for owner, top, moved in zip(owners, level, moves.tolist(), strict=False):
        if moved:
            heights[owner] = max(heights.get(owner, 0.0), top - design.datum)
    rising = np.column_stack([tops[:, :2], ends])[(ends != NO_TOP).any(axis=1)]
    return heights, rising


def _given(document: Document) -> BaseNumbers:
    """What the piece says of its base, for forms that have a plate of their own."""
    base = document.base
    shape = "outline" if base.shape == "none" else base.shape
    return BaseNumbers({"shape": shape, "margin": base.margin, "corner_radius": base.corner_radius})


def _outline_of(base: BasePlate) -> tuple[Hashable, ...]:
    """What the base's footprint follows from."""
    return (base.shape, base.margin, base.corner_radius, base.block, base.keep_holes)


def _mark(outline: Outline) -> tuple[BaseGeometry, Footprint]:
    rough = outline.flattened(0.5)
    return rough, footprint(rough)


def _new_id(mark: Footprint) -> str:
    return "r" + hashlib.sha256(repr((mark.anchor, mark.box)).encode()).hexdigest()[:10]


def _flat_line(document: Document, identifier: str, contour: Contour, sheet: Sheet) -> FlatLine:
    placed = contour.transformed(sheet.scale, -sheet.left * sheet.scale, -sheet.top * sheet.scale)
    (x0, y0), (x1, y1) = placed.curves[0, 0].tolist(), placed.curves[-1, 3].tolist()
    pen = next((line.name for line in document.pen if line.id == identifier), None)
    name = pen or next((t.name for t in document.drawn if t.id == identifier), "")
    return FlatLine(identifier, name, placed.path_data(3), (x0, y0), (x1, y1), pen is None)


def _drawn_id(shape: Shape) -> str | None:
    return None if shape.drawn is None else f"{shape.drawn}.{shape.part}".replace(".", "-")


def _unfinished(count: int) -> list[str]:
    if not count:
        return []
    return [f"{count} line{'s' if count > 1 else ''} {'are' if count > 1 else 'is'} still open."]


def _triple(values: NDArray[np.float64]) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])
