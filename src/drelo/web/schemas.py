"""What goes over the wire, as the OpenAPI description states it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC
from typing import Annotated, Any, Literal

from flask_openapi3 import FileStorage
from pydantic import BaseModel, ConfigDict, Field, RootModel

from drelo.core.piece.difference import Difference, difference
from drelo.core.piece.document import Document, Identifier, Mark, Point, RegionHeight
from drelo.core.piece.edits import Edit, Picked, SetRegions
from drelo.core.piece.flat import Flat
from drelo.core.piece.form_numbers import EdgeOptions
from drelo.core.piece.look_over import LookOver
from drelo.core.piece.operations import Offset, Operation, PickedIds, Thicken, Tie
from drelo.core.piece.weak_spots import PlaceKind
from drelo.core.trace.spots import Kind
from drelo.formats.drawing_in import Reading
from drelo.formats.dxf_in import JOIN
from drelo.formats.name_list import MAX_BYTES, MAX_NAMES
from drelo.store.pieces import State
from drelo.work.many import Packing
from drelo.work.tasks import FileKind, SealedFile

BedSide = Annotated[float, Field(gt=0, le=5000)]


class Wire(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Problem(BaseModel):
    """RFC 9457 problem details; `detail` says what to do."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    field: str = ""


class PiecePath(Wire):
    piece_id: Annotated[str, Field(max_length=22)]


class SolidPath(Wire):
    piece_id: Annotated[str, Field(max_length=22)]
    revision: int


class AttemptPath(Wire):
    piece_id: Annotated[str, Field(max_length=22)]
    revision: int
    attempt: Identifier


class AssetPath(Wire):
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class FilePath(Wire):
    key: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class FileQuery(Wire):
    name: Annotated[str, Field(max_length=120)] = "piece"


class NewPiece(Wire):
    name: Annotated[str, Field(min_length=1, max_length=120)] = "New piece"


class Rename(Wire):
    name: Annotated[str, Field(min_length=1, max_length=120)]


class LookPath(Wire):
    piece_id: str
    look: str


class MotifPath(Wire):
    motif: Identifier


class MotifQuery(Wire):
    small: bool = False


class MotifOut(Wire):
    """A motif of the cabinet, and the words that it is found under."""

    id: str
    name: str
    words: list[str]
    kind: str


class CabinetOut(Wire):
    motifs: list[MotifOut]


class TakeMotif(Wire):
    """A motif to take as the piece's picture, and the revision that it is put on."""

    motif: Identifier
    revision: int


class PictureForm(BaseModel):
    """A picture to begin a piece with."""

    picture: FileStorage


class RecipeForm(BaseModel):
    """A recipe with the files that it names, or one ZIP of all."""

    files: Annotated[list[FileStorage], Field(min_length=1, max_length=20)]


class PictureForPiece(BaseModel):
    """A picture for a piece that exists, and the revision that it is put on."""

    picture: FileStorage
    revision: int


# One union told apart by `do`, so that a wrong value is named by its field.
Change = Annotated[Edit | Operation, Field(discriminator="do")]


class EditRequest(Wire):
    """An edit, or what is asked of outlines, and the revision that it was made on.

    changes_only: the answer holds what differs from that revision, not the whole.
    """

    revision: int
    edit: Change
    changes_only: bool = False


class PreviewRequest(EditRequest):
    """An edit to look at; coarse: fast enough to follow the hand, on a reduced picture where it is large."""

    coarse: bool = False


class LeakRequest(Wire):
    """Where a pour is thought of, art units."""

    revision: int
    at: Point


class LeakOut(Wire):
    """The gap through which a pour would run out: its ends, art units, and its width, mm; none where it holds."""

    found: bool
    start: tuple[float, float] = (0.0, 0.0)
    end: tuple[float, float] = (0.0, 0.0)
    width: float = 0.0


class JoiningRequest(Wire):
    revision: int
    picked: PickedIds


class JoiningOut(Wire):
    """The smallest growth, mm, that makes one part of all that is picked; how many parts there are."""

    growth: float
    parts: int


Unit = Literal["mm", "cm", "m", "inch", "foot"]


class DrawingForm(BaseModel):
    """A vector file to look at. unit: in place of what it says. join: ends nearer than this, mm, meet.

    strokes: of an SVG come in as the areas that they cover, or as lines.
    """

    drawing: FileStorage
    unit: Unit | None = None
    join: Annotated[float, Field(ge=0, le=10)] = JOIN
    strokes: Literal["areas", "lines"] = "areas"

    @property
    def how(self) -> Reading:
        return Reading(self.unit, self.join, self.strokes == "lines")


class OfferOut(Wire):
    """Words that were read, as lettering; art units. under: traced letters whose place they take."""

    text: str
    confidence: float
    font: str
    likeness: float
    at: Point
    height: float
    width: float
    under: list[Picked]


class WordsOut(Wire):
    words: list[OfferOut]


class PlaceDrawingForm(DrawingForm):
    """A vector file to put on the sheet. width: mm, in place of its own. seed: its things are named after it."""

    revision: int
    width: Annotated[float, Field(gt=0, le=10_000)] | None = None
    seed: Annotated[str, Field(pattern=r"^[A-Za-z0-9_]{1,24}$")]


class DrawingOut(Wire):
    """What a vector file holds, before it is placed; lengths in mm."""

    width: float
    height: float
    unit: str
    outlines: int
    open: int
    strokes: int
    path: str
    remarks: list[str]


class FontForm(BaseModel):
    """A maker's own font file."""

    font: FileStorage


class FontOut(Wire):
    """A font that words can be set in. sample: path data of a few words, capitals 10 units high."""

    id: str
    name: str
    sample: str = ""
    width: float = 0.0
    height: float = 0.0


class FontList(Wire):
    fonts: list[FontOut]


class OutlinesRequest(Wire):
    """Outlines to take away. picked: only these. dpi: of a PNG. tolerance: mm, of a DXF's polylines.

    kept: a DXF keeps the sheet's origin.
    """

    revision: int
    kind: Literal["svg", "dxf", "png"]
    picked: list[Annotated[str, Field(max_length=48)]] = Field(default_factory=list, max_length=12_000)
    spline: bool = False
    tolerance: Annotated[float, Field(gt=0.0001, le=1)] = 0.01
    dpi: Annotated[float, Field(ge=10, le=2400)] = 300.0
    kept: bool = False


class OutlinesOut(Wire):
    """Where the file is, what it is called, and its bytes."""

    url: str
    name: str
    bytes: int


class KeepMotif(Wire):
    """What is picked, to be kept under a name."""

    piece: Annotated[str, Field(max_length=22)]
    revision: int
    picked: PickedIds
    name: Annotated[str, Field(min_length=1, max_length=120)]


class KeptMotifOut(Wire):
    """A motif that was kept: path data in mm, its corner at 0, 0."""

    id: str
    name: str
    path: str
    width: float
    height: float


class KeptMotifList(Wire):
    motifs: list[KeptMotifOut]


class KeptMotifPath(Wire):
    kept: Annotated[str, Field(max_length=22)]


class MotifForm(BaseModel):
    """An SVG or DXF file that becomes a motif."""

    drawing: FileStorage


class PlaceMotif(Wire):
    """A kept motif to put on the sheet."""

    revision: int
    motif: Annotated[str, Field(max_length=22)]
    seed: Annotated[str, Field(pattern=r"^[A-Za-z0-9_]{1,24}$")]


class OnRevision(Wire):
    """changes_only: the answer holds what differs from the revision, not the whole."""

    revision: int
    changes_only: bool = False


class TakeAwayRequest(Wire):
    """stl: one surface of all; stl-each: one a filament, in a zip. within: how far chords may keep off curves, mm."""

    revision: int
    kind: FileKind
    within: Annotated[float, Field(ge=0.0005, le=1)] = 0.008


class NameList(Wire):
    """Names as they are typed or pasted."""

    text: Annotated[str, Field(max_length=MAX_BYTES)]


class ManyNames(Wire):
    names: list[str]


class MakeOne(Wire):
    """One name of many. words: the lettering that it takes the place of, the first one when it is not said."""

    revision: int
    name: Annotated[str, Field(max_length=200)]
    words: Identifier | None = None
    packing: Packing = "beds"
    within: Annotated[float, Field(ge=0.0005, le=1)] = 0.008


class MadeOne(Wire):
    """key: by which it is packed."""

    key: str


class MadeName(Wire):
    key: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    name: Annotated[str, Field(min_length=1, max_length=200)]


class PackMany(Wire):
    """bed: its width and depth; spacing: between pieces; both mm."""

    made: Annotated[list[MadeName], Field(min_length=1, max_length=MAX_NAMES)]
    packing: Packing = "beds"
    bed: tuple[BedSide, BedSide] = (220.0, 220.0)
    spacing: Annotated[float, Field(ge=0, le=100)] = 4.0


class PackedOut(Wire):
    """count: how many beds, or files."""

    url: str
    name: str
    bytes: int
    count: int


class FileWeight(Wire):
    """What a file would come to."""

    triangles: int
    bytes: int


class PieceHeadOut(Wire):
    """A piece without its document."""

    id: str
    name: str
    revision: int
    can_undo: bool
    can_redo: bool
    updated: str

    @classmethod
    def head(cls, state: State) -> PieceHeadOut:
        return PieceHeadOut(
            id=state.id,
            name=state.name,
            revision=state.revision,
            can_undo=state.can_undo,
            can_redo=state.can_redo,
            updated=state.updated.replace(tzinfo=UTC).isoformat(),
        )


class PieceOut(PieceHeadOut):
    """A piece as it stands."""

    document: Document

    @classmethod
    def of(cls, state: State) -> PieceOut:
        return cls(**cls.head(state).model_dump(), document=state.document)


class PieceCard(Wire):
    """A piece on the opening page."""

    id: str
    name: str
    revision: int
    updated: str
    empty: bool

    @classmethod
    def of(cls, state: State) -> PieceCard:
        return cls(
            id=state.id,
            name=state.name,
            revision=state.revision,
            updated=state.updated.replace(tzinfo=UTC).isoformat(),
            empty=state.document.source is None and not state.document.drawn,
        )


class PieceList(Wire):
    pieces: list[PieceCard]


class RegionOut(Wire):
    """A region of the flat view; path and box in mm on the sheet, y down."""

    id: str
    name: str
    path: str
    area: float
    nodes: int
    box: tuple[float, float, float, float]
    height: RegionHeight
    filament: str
    colour: str | None
    decided_height: bool
    decided_filament: bool
    left_out: bool
    traced_in: str | None
    pen: str | None
    drawn: str | None
    edge: EdgeOptions | None
    mark: Mark


class UnderlayOut(Wire):
    """Where the picture lies, mm, and its size, px; `look` names the picture as its care leaves it."""

    look: str
    x: float
    y: float
    width: float
    height: float
    pixels: tuple[int, int]


class SwatchOut(Wire):
    """A colour of the picture: #rrggbb, its share of the area, whether it is no shape, whether it is see-through.

    bands: other colours of the same surface, which lies in uneven light or runs from one to the other.
    """

    colour: str
    share: float
    background: bool
    clear: bool
    bands: list[str]


class TraceOut(Wire):
    """One trace, of the whole picture or of an area: what was found, and what was left out. Sizes in px²."""

    area: str | None
    level: float | None
    speck: float
    pinhole: float | None
    dropped: int
    filled: int
    swatches: list[SwatchOut]
    tones: list[float]
    lost_path: str
    stroke_width: float | None
    on_dark: bool


class AreaOut(Wire):
    """An area that is traced by itself; path in mm on the sheet."""

    id: str
    name: str
    path: str


class LineOut(Wire):
    """An open line of the pen, or of a drawn thing, mm on the sheet."""

    id: str
    name: str
    path: str
    start: tuple[float, float]
    end: tuple[float, float]
    drawn: bool


class ThingOut(Wire):
    """A drawn thing as its nodes are edited; path and box in mm on the sheet."""

    id: str
    path: str
    box: tuple[float, float, float, float]
    nodes: int
    open: int
    crossings: list[Point]


class FlatOut(Wire):
    """All that the flat view and the tuning show; lengths in mm."""

    left: float
    top: float
    width: float
    height: float
    mm_per_px: float
    origin: tuple[float, float]
    underlay: UnderlayOut | None
    regions: list[RegionOut]
    base_path: str
    base_box: tuple[float, float, float, float] | None
    product_path: str
    overhang_path: str
    traces: list[TraceOut]
    areas: list[AreaOut]
    lines: list[LineOut]
    things: list[ThingOut]
    nodes: int
    total_height: float
    reduced: int
    remarks: list[str]

    @classmethod
    def of(cls, flat: Flat) -> FlatOut:
        return cls(**{name: _sent(name, value) for name, value in vars(flat).items()})


def _sent(field: str, value: Any) -> Any:
    """A field of the flat view as it goes over the wire."""
    row = _ROWS.get(field)
    if row is not None:
        return [row(each) for each in value]
    return UnderlayOut(**vars(value)) if field == "underlay" and value is not None else value


_ROWS: dict[str, Callable[[Any], Wire]] = {
    "regions": lambda r: RegionOut(**{**vars(r), "mark": Mark(anchor=r.mark.anchor, box=r.mark.box)}),
    "traces": lambda t: TraceOut(**{**vars(t), "swatches": [SwatchOut(**vars(s)) for s in t.swatches]}),
    "areas": lambda a: AreaOut(**vars(a)),
    "lines": lambda line: LineOut(**vars(line)),
    "things": lambda thing: ThingOut(**{**vars(thing), "crossings": list(thing.crossings)}),
}


class RowsOut(Wire):
    """A list of which some rows changed: all ids in their order, where that changed, and the rows that differ."""

    order: list[str] | None
    changed: list[Any]


class PartOut(Wire):
    """What changed: fields that are sent whole, and lists of which only some rows differ."""

    fields: dict[str, Any]
    rows: dict[str, RowsOut]

    @classmethod
    def of_flat(cls, change: Difference) -> PartOut:
        rows = {
            name: RowsOut(order=_listed(found.order), changed=[_ROWS[name](row) for row in found.changed])
            for name, found in change.rows.items()
        }
        return cls(fields={name: _sent(name, value) for name, value in change.fields.items()}, rows=rows)

    @classmethod
    def of_document(cls, before: Document, after: Document) -> PartOut:
        change = difference(before.__dict__, after.__dict__, ("drawn", "regions"))
        rows = {n: RowsOut(order=_listed(r.order), changed=list(r.changed)) for n, r in change.rows.items()}
        return cls(fields=dict(change.fields), rows=rows)


def _listed(order: tuple[str, ...] | None) -> list[str] | None:
    return None if order is None else list(order)


class PlaceOut(Wire):
    """A narrow place: its width and its middle, mm on the sheet."""

    width: float
    at: tuple[float, float]


class SpotOut(Wire):
    """A rough spot: why, where and how far it reaches, mm on the sheet, and how much it wants a look, 0..1."""

    kind: Kind
    at: tuple[float, float]
    radius: float
    weight: float


class LookOverOut(Wire):
    """Narrowest neck and gap, and rough spots, the one that wants a look most first."""

    neck: PlaceOut | None
    gap: PlaceOut | None
    spots: list[SpotOut]

    @classmethod
    def of(cls, found: LookOver) -> LookOverOut:
        return cls(
            neck=None if found.neck is None else PlaceOut(**vars(found.neck)),
            gap=None if found.gap is None else PlaceOut(**vars(found.gap)),
            spots=[SpotOut(**vars(s)) for s in found.spots],
        )


class WeakPlaceOut(Wire):
    """A place that a print would not forgive; path, at, radius, width and least in mm, at_solid where the solid has it.

    mend: an edit that would help, where there is one.
    """

    kind: PlaceKind
    path: str
    at: Point
    at_solid: tuple[float, float, float]
    radius: float
    width: float
    least: float
    regions: list[str]
    mend: SetRegions | Offset | Thicken | Tie | None


class WeakPlacesOut(Wire):
    """The narrowest first."""

    places: list[WeakPlaceOut]


class ClingRequest(Wire):
    """From where to where a line is to follow the strongest edge, px of the picture; snap: its end goes to an edge.

    moving: the hand is still on its way, so that a newer request takes this one's place.
    """

    revision: int
    start: Point
    end: Point
    snap: bool = True
    moving: bool = False


class ClungOut(Wire):
    """Where it ends, and the points along it, px of the picture."""

    to: Point
    points: list[Point]


class BenchOut(Wire):
    """A piece and its flat view."""

    piece: PieceOut
    flat: FlatOut


class BenchChangeOut(Wire):
    """What differs from the revision that was asked about; the piece's document is in parts of its own."""

    piece: PieceHeadOut
    document: PartOut
    flat: PartOut


class BenchAnswer(RootModel[BenchOut | BenchChangeOut]):
    """The piece and its flat view, or what changed of them."""


class FlatAnswer(RootModel[FlatOut | PartOut]):
    """The flat view, or what would change of it."""


class ConflictProblem(Problem):
    """The edit was made on an old revision; `bench` is what stands now."""

    bench: BenchOut


class BodyOut(Wire):
    name: str
    colour: str
    volume_mm3: float


class TakeAwayOut(Wire):
    """A file that was written, read back and checked; `url` serves it."""

    url: str
    name: str
    bytes: int
    sealed: bool
    triangles: int
    parts: int
    volume_mm3: float
    size_mm: tuple[float, float, float]
    bodies: list[BodyOut]
    remarks: list[str]

    @classmethod
    def of(cls, file: SealedFile, url: str, name: str) -> TakeAwayOut:
        return cls(
            url=url,
            name=name,
            bytes=len(file.data),
            sealed=file.sealed,
            triangles=file.triangles,
            parts=file.parts,
            volume_mm3=file.volume,
            size_mm=file.size,
            bodies=[BodyOut(name=n, colour=c, volume_mm3=v) for n, c, v in file.bodies],
            remarks=list(file.remarks),
        )


class Health(Wire):
    status: Literal["ok"] = "ok"


Json = dict[str, Any]
