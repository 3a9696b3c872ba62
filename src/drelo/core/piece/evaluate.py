"""From a document and its assets to the flat view, the screen's surface and the bodies.

Pure, and remembered stage by stage.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, replace
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
from drelo.core.form.cutter import nearest_shapes
from drelo.core.form.order import Order, design_of, laid, ordered
from drelo.core.form.outcome import Outcome, baked, printed
from drelo.core.form.relief import Height, Part
from drelo.core.outline.outline import Outline, bounds
from drelo.core.picture.care import cared
from drelo.core.picture.decode import Picture, decode
from drelo.core.picture.field import border_ink, tones
from drelo.core.piece.art import WORKING_PIXELS, Art, drawn_art, picture_art, picture_key, together, working_factor
from drelo.core.piece.document import HOLDS, BasePlate, Document
from drelo.core.piece.drawn import Drawn
from drelo.core.piece.edits import Picked
from drelo.core.piece.flat import Flat, FormProblem, OutcomeView, sheet_box, sheet_path, usual_filament
from drelo.core.piece.flat_view import Drawing, flat_view
from drelo.core.piece.form_numbers import BaseNumbers
from drelo.core.piece.look_over import LookOver, look_over
from drelo.core.piece.memo import Memo
from drelo.core.piece.naming import region_names
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.piece.prospects import Prospects, Standing, fewer_changes, trouble_places
from drelo.core.piece.regions import Region, recognised, seen
from drelo.core.piece.shaping.workshop import Known, Workshop
from drelo.core.region.arrangement import Arrangement
from drelo.core.rehearsal.settings import Manner
from drelo.core.rehearsal.troubles import Trouble
from drelo.core.remark import Remark
from drelo.core.solid.making import Made
from drelo.core.solid.raising import arrange_design
from drelo.core.solid.surface import NO_TOP, Surface, divided, plan, surface
from drelo.core.trace.proposal import Mode, proposed
from drelo.core.trace.trace import Line

# Chord tolerances of the screen, mm, each up to so many nodes: what is many is shown small.
SCREEN = ((2_000, 0.02), (10_000, 0.04))
SCREEN_OF_MOST = 0.08

T = TypeVar("T")
Assets = Callable[[str], bytes]
"""Bytes of an asset by its hash."""


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
class Flattened:
    """Kept regions as areas, mm, y up, the art's box at 0, 0; and where that corner lies on the sheet, mm.

    left, bottom: of the art's box on the sheet; the middle of a base that stands alone where there is no art.
    """

    shapes: tuple[BaseGeometry, ...]
    left: float
    bottom: float


# The bytes of what was drawn are its key: to write them takes a fraction of comparing or printing it.
_DRAWN = TypeAdapter(tuple[Drawn, ...])


class Evaluation:
    """Evaluates documents with a memory.

    checkpoint: called between stages; it may raise Superseded to end work that nobody waits for any more.
    most: pictures with more pixels are worked on reduced; with less than the usual number, quickly as well.
    read: makes a picture of bytes.
    """

    def __init__(
        self,
        assets: Assets,
        memo: Memo,
        checkpoint: Callable[[], None] = lambda: None,
        most: int = WORKING_PIXELS,
        read: Callable[[bytes], Picture] = decode,
    ) -> None:
        self._assets = assets
        self._memo = memo
        self._checkpoint = checkpoint
        self._most = most
        self._read = read
        self._quick = most < WORKING_PIXELS

    def _stage(self, key: Hashable, compute: Callable[[], T]) -> T:
        self._checkpoint()
        return self._memo.get(key, compute)

    def _each(self, key: Hashable, compute: Callable[[], T]) -> T:
        return self._memo.small(key, compute)

    # Pictures and outlines

    def picture(self, placed: PlacedPicture) -> Picture:
        """A picture of the piece after its care."""
        original = self.asset_picture(placed.asset)
        if not placed.steps:
            return original
        return self._stage(("cared", placed.look), lambda: cared(original, placed.steps))

    def asset_picture(self, sha256: str) -> Picture:
        """A decoded picture. Raises Refusal when its bytes cannot be used."""
        return self._stage(("picture", sha256), lambda: self._read(self._assets(sha256)))

    def factor(self, placed: PlacedPicture) -> int:
        """By which whole number a picture is divided to be traced."""
        return working_factor(placed, self.picture(placed), self._most)

    def art(self, document: Document) -> Art:
        """All outlines. Raises Refusal when a setting leaves nothing."""

        def compute() -> Art:
            drawn = self._memo.of(document.drawn, "drawn art", lambda: drawn_art(document, self._assets, self._each))
            shown = [p for p in document.pictures if not p.hidden]
            return together([self._picture_art(p, len(shown) > 1) for p in shown], drawn)

        return self._stage(("art", *self._art_key(document)), compute)

    def _picture_art(self, placed: PlacedPicture, among: bool) -> Art:
        """among: there are others, so that what is wrong with it names it."""
        picture, factor = self.picture(placed), self.factor(placed)

        def compute() -> Art:
            return picture_art(placed, picture, factor, self._stage, self._stage, self._each, self._quick)

        try:
            return self._stage(picture_key(placed, factor, self._quick), compute)
        except Refusal as refusal:
            named = Refusal("within", refusal.field, name=placed.name, refusal=refusal)
            raise named if among else refusal from None

    def _art_key(self, document: Document) -> tuple[Hashable, ...]:
        """All that the art follows from."""
        drawn = self._memo.of(
            document.drawn, "digest", lambda: hashlib.sha256(_DRAWN.dump_json(document.drawn)).digest()
        )
        pictures = tuple(picture_key(p, self.factor(p), self._quick) for p in document.pictures if not p.hidden)
        return drawn, pictures

    # Regions

    def regions(self, document: Document) -> tuple[Region, ...]:
        """Every shape with what was decided for it."""
        key = ("regions", self._most, self._art_key(document))
        return self._memo.of(document.regions, key, lambda: self._recognised(document))

    def _names(self, document: Document) -> dict[str, str]:
        """What each region is called."""

        def compute() -> dict[str, str]:
            regions = self.regions(document)
            return dict(zip((r.id for r in regions), region_names(document, regions), strict=True))

        return self._memo.of(document, ("names", self._most), compute)

    def _recognised(self, document: Document) -> tuple[Region, ...]:
        shapes = self.art(document).shapes
        places = {p.id: p.place.matrix for p in document.pictures}
        found = [seen(s, places.get(s.picture or ""), self._each) for s in shapes]
        return recognised(shapes, found, document.regions)

    def kept(self, document: Document) -> tuple[Region, ...]:
        """Regions that are not left out. Raises Refusal when there are none and no base stands alone."""
        kept = tuple(r for r in self.regions(document) if not r.left_out)
        if not kept and not (document.base.stands_alone and document.form == "relief"):
            raise Refusal("region.none-left", "regions")
        return kept

    def box(self, document: Document) -> tuple[float, float, float, float] | None:
        """The box of what is kept: left, top, right, bottom, mm on the sheet; None where nothing is."""
        return bounds(r.shape.outline for r in self.regions(document) if not r.left_out)

    def _shape_key(self, document: Document, tolerance: float) -> tuple[Hashable, ...]:
        # In whole-number places of the art: what is left out is part of what the shapes are.
        out = tuple(r.id for r in self.regions(document) if r.left_out)
        holes = self._memo.of(document.drawn, "holes", lambda: tuple(t.id for t in document.drawn if t.hole))
        return ("shapes", self._art_key(document), out, holes, document.size, document.base.at, tolerance)

    def _flattened(self, document: Document, tolerance: float) -> Flattened:
        """Every kept region flattened; a side whose size was typed is exact."""
        return self._stage(self._shape_key(document, tolerance), lambda: self._flatten(document, tolerance))

    def _flatten(self, document: Document, tolerance: float) -> Flattened:
        outlines = [r.shape.outline for r in self.kept(document)]
        flat = [self._each(("flat", o, tolerance), partial(o.flattened, tolerance)) for o in outlines]
        some = [g for g in flat if not g.is_empty]
        if not some:
            at = document.base.at or (0.0, 0.0)
            return Flattened(tuple(flat), *at)
        boxes = shapely.bounds(some)
        low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
        shapes = laid(flat, self._exact(document, high - low))
        return Flattened(tuple(shapes), float(low[0]), float(high[1]))

    def _exact(self, document: Document, extent: NDArray[np.float64]) -> float:
        """By how much chords are stretched, so that a side whose size was typed, and holds, is exact."""
        size, box = document.size, self.box(document)
        if size is None or box is None:
            return 1.0
        side = 0 if size.side == "width" else 1
        holds = abs(box[2 + side] - box[side] - size.mm) < HOLDS
        return size.mm / float(extent[side]) if holds else 1.0

    # What is shown

    def flat(self, document: Document) -> Flat:
        """Outlines, regions and figures. Raises Refusal when a setting leaves nothing.

        A form that can't be built is a problem that it tells, nothing more.
        """
        return self._memo.of(document, ("flat view", self._most), lambda: flat_view(document, self._drawing(document)))

    def _drawing(self, document: Document) -> Drawing:
        box = self.box(document)
        design, problem = None, None
        left, bottom = (box[0], box[3]) if box else (0.0, 0.0)
        if box or document.base.stands_alone:
            try:
                tolerance = self.screen(document)
                flattened = self._flattened(document, tolerance)
                left, bottom = flattened.left, flattened.bottom
                design = self.design(document, tolerance)
            except Refusal as refusal:
                problem = FormProblem(refusal, refusal.field)
        art = self.art(document)
        pictures = {p.id: self.picture(p) for p in document.pictures}
        tone = {p.id: self._stage(("tones", p.look), partial(tones, pictures[p.id])) for p in document.pictures}
        borders = [self._border(t.picture, t.area, t.trace.level, pictures) for t in art.traces]
        return Drawing(
            art=art,
            regions=self.regions(document),
            names=self._names(document),
            box=box,
            origin=(left, bottom),
            design=design,
            problem=problem,
            pictures=pictures,
            tones=tone,
            borders=borders,
            reduced=max((self.factor(p) for p in document.pictures), default=1),
            each=self._each,
        )

    def _border(
        self, placed: PlacedPicture, area: str | None, level: float | None, pictures: Mapping[str, Picture]
    ) -> float:
        """Share of a picture's border that is dark and traced as ink."""
        if area is not None or level is None or placed.trace.invert:
            return 0.0
        return self._stage(("border", placed.look, level), lambda: border_ink(pictures[placed.id], level))

    def workshop(self, document: Document) -> Workshop:
        """What operations on outlines need to know. Regions that are left out are no part of it."""
        names = self._names(document)
        regions = tuple(
            Known(r.id, r.shape, r.mark, r.choice, names[r.id]) for r in self.regions(document) if not r.left_out
        )
        return Workshop(document, self.art(document), regions, self._assets, self._size_after_care(document))

    def _size_after_care(self, document: Document) -> Mapping[str, tuple[int, int]]:
        found = {p.id: self.picture(p) for p in document.pictures}
        return {name: (picture.width, picture.height) for name, picture in found.items()}

    def look_over(self, document: Document) -> LookOver:
        """Narrow places and rough spots of what is kept. Raises Refusal when nothing is."""
        kept = self.kept(document)
        pictures = [(p, self.picture(p)) for p in document.pictures if not p.hidden]
        traces = self.art(document).traces
        even = frozenset((t.picture.id, t.area) for t in traces if t.trace.lines or t.trace.shapes)
        untrue = [(t.picture, t.trace.check.off) for t in traces if t.trace.check]
        return look_over(pictures, [region.shape for region in kept], even, untrue)

    def outcome(self, document: Document, spread: float, rise: float) -> Outcome:
        """What a stamp prints with ink that spreads (mm), or a cutter's biscuit that rises by a share.

        Raises Refusal where the form makes neither.
        """
        if document.form not in ("stamp", "cutter"):
            raise Refusal("outcome.other-form", "form")
        design = self.design(document, self.screen(document))
        product = design.product or shapely.Polygon()
        if document.form == "stamp":
            return printed(product, spread)
        return baked(product, design.marks or shapely.Polygon(), rise)

    def outcome_view(self, document: Document, spread: float, rise: float) -> OutcomeView:
        """The same, as the flat view shows it."""
        found = self.outcome(document, spread, rise)
        at = self._flattened(document, self.screen(document))
        box = sheet_box(found.shape.bounds, at.left, at.bottom) if not found.shape.is_empty else (0.0, 0.0, 0.0, 0.0)
        shape, marks, closed = (sheet_path(g, at.left, at.bottom) for g in (found.shape, found.marks, found.closed))
        return OutcomeView(shape, marks, closed, found.places, box)

    def proposed(self, asset: str) -> Mode:
        """How a picture is best traced, by the look of it."""
        return self._stage(("proposed", asset), lambda: proposed(self.asset_picture(asset)))

    def middle_lines(self, document: Document) -> tuple[list[Line], list[Outline]]:
        """Middle lines of all that was traced as strokes, mm on the sheet, with their widths; and the filled shapes
        among them.
        """
        lines, shapes = [], []
        for t in self.art(document).traces:
            place = t.picture.place
            for line in t.trace.lines:
                contour = line.contour.mapped(place.matrix)
                lines.append(replace(line, contour=contour, width=line.width * place.mm_per_px))
            shapes += [shape.mapped(place.matrix) for shape in t.trace.shapes]
        return lines, shapes

    def prospects(self, document: Document, found: Sequence[Trouble], manner: Manner, nozzle: float) -> Prospects:
        """What a rehearsal found, on the sheet, each with its mend; and heights that need fewer changes of filament.

        nozzle: of the printer, mm.

        Raises Refusal when there is nothing to build.
        """
        tolerance = self.screen(document)
        flattened, kept = self._flattened(document, tolerance), self.kept(document)
        parts = self._parts(document, flattened.shapes)
        standing = [
            Standing(Picked(id=r.id, mark=r.mark), part.name, part.shape, part.height, part.colour)
            for part, r in zip(parts, kept, strict=True)
        ]
        design = self.design(document, tolerance)
        places = trouble_places(document, design, standing, found, (flattened.left, flattened.bottom), nozzle)
        fewer = fewer_changes(document, standing, lambda other: self.design(other, tolerance), manner)
        return Prospects(places, fewer)

    # The solid

    def _height(self, document: Document, region: Region) -> Height:
        choice = region.choice
        return document.default_height if choice is None or choice.height is None else choice.height

    def order(self, document: Document, tolerance: float) -> tuple[Order, list[Remark]]:
        """What is to be built, and remarks on what is not. Raises Refusal when there is nothing."""
        flattened = self._flattened(document, tolerance)
        colour = document.filament(document.base.filament).colour
        base = _base(document.base, colour, flattened)
        parts = self._parts(document, flattened.shapes)
        given = _given(document, flattened)
        match document.form:
            case "stamp":
                return ordered(parts, document.stamp.to_core(given, colour, document.layer), base)
            case "cutter":
                return ordered(parts, document.cutter.to_core(colour, document.layer), base)
            case "nameplate":
                return ordered(parts, document.nameplate.to_core(given, colour), base)
            case "relief":
                return ordered(parts, document.relief.to_core(document.layer), base)

    def design(self, document: Document, tolerance: float) -> Design:
        """The form worked out. Raises Refusal with the field that does not fit."""

        def compute() -> Design:
            order, remarks = self.order(document, tolerance)
            plate = None
            if order.form == "relief":
                # The footprint is the costly part and does not depend on heights.
                shapes = shapely.geometrycollections([p.shape for p in order.parts if not p.hole])
                key = ("plate", *self._shape_key(document, tolerance), *_outline_of(document.base))
                plate = self._stage(key, lambda: base_plate(order.base, shapes, tolerance))
            made = design_of(order, tolerance, plate)
            return replace(made, remarks=(*made.remarks, *remarks)) if remarks else made

        if document.form in ("stamp", "cutter"):
            numbers = document.stamp if document.form == "stamp" else document.cutter
            colour = document.filament(document.base.filament).colour
            key = ("form", *self._shape_key(document, tolerance), document.base, numbers, colour, document.layer)
            return self._stage(key, compute)
        return self._memo.of(document, ("design", self._most, tolerance), compute)

    def _parts(self, document: Document, shapes: Sequence[BaseGeometry]) -> list[Part]:
        parts = []
        usual: dict[str | None, str] = {}
        edges = {None: document.default_edge.to_core()}
        colours = {f.id: f.colour for f in reversed(document.filaments)}
        first = document.filaments[0].colour
        holes = {t.id for t in document.drawn if t.hole}
        names = self._names(document)
        for number, (shape, region) in enumerate(zip(shapes, self.kept(document), strict=True)):
            choice, fill = region.choice, region.shape.fill
            if fill not in usual:
                usual[fill] = usual_filament(document, fill)
            height = self._height(document, region)
            identifier = (choice and choice.filament) or usual[fill]
            own = choice.edge if choice else None
            edge = edges[None] if own is None else own.to_core()
            hole = region.shape.drawn in holes
            colour = colours.get(identifier, first)
            parts.append(
                Part(shape, "through" if hole else height, colour, names[region.id], "height", edge, number, hole)
            )
        return parts

    def decided(self, document: Document) -> list[tuple[Outline, Part]]:
        """Every kept region as it lies on the sheet, mm, y down, with what was decided for it."""
        kept = self.kept(document)
        parts = self._parts(document, self._flattened(document, self.screen(document)).shapes)
        return [(r.shape.outline, p) for r, p in zip(kept, parts, strict=True)]

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
        nodes = sum(r.shape.outline.nodes for r in self.regions(document) if not r.left_out)
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
            return nearest_shapes(self._flattened(document, tolerance).shapes, middles)

        return self._stage(("nearest", *self._layers_key(document, tolerance)), compute)

    def made(self, document: Document, tolerance: float) -> Made:
        """The solid with curves within a tolerance, mm. Raises Refusal when there is nothing to build."""
        design = self.design(document, tolerance)
        return Made(design, self._arrangement(document, design, tolerance), self._checkpoint)


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


def _base(base: BasePlate, colour: str, at: Flattened) -> Base:
    """The base where the solid is worked out."""
    return Base(
        base.shape,
        base.margin,
        base.thickness,
        base.corner_radius,
        colour,
        base.block,
        base.keep_holes,
        base.sides,
        base.diameter,
        _solid_place(base.at, at),
    )


def _solid_place(place: tuple[float, float] | None, at: Flattened) -> tuple[float, float] | None:
    """A place on the sheet where the solid is worked out, y up."""
    return None if place is None else (place[0] - at.left, at.bottom - place[1])


def _given(document: Document, at: Flattened) -> BaseNumbers:
    """What the piece says of its base, for forms that have a plate of their own."""
    base = document.base
    shape = "outline" if base.shape == "none" else base.shape
    return BaseNumbers(
        {
            "shape": shape,
            "margin": base.margin,
            "corner_radius": base.corner_radius,
            "sides": base.block if shape == "block" else base.sides,
            "diameter": base.diameter,
            "at": _solid_place(base.at, at),
        }
    )


def _outline_of(base: BasePlate) -> tuple[Hashable, ...]:
    """What the base's footprint follows from."""
    return (
        base.shape, base.margin, base.corner_radius, base.block, base.keep_holes, base.sides, base.diameter, base.at,
    )  # fmt: skip
