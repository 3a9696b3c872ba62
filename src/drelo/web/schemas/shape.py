"""What Shape asks beside edits: leaks, growth that joins, words, drawings, fonts, motifs, outlines taken away."""

from __future__ import annotations

from typing import Annotated, Literal

from flask_openapi3 import FileStorage
from pydantic import BaseModel, Field

from drelo.core.piece.drawn import Identifier, Point
from drelo.core.piece.operations import PickedIds
from drelo.core.piece.words import Offer
from drelo.formats.drawing_in import Reading
from drelo.formats.dxf_in import JOIN
from drelo.web.schemas.base import PieceId, Seed, Wire

Unit = Literal["mm", "cm", "m", "inch", "foot"]


class LeakRequest(Wire):
    """Where a pour is thought of, mm on the sheet; gaps up to `gap` mm would be closed."""

    revision: int
    at: Point
    gap: Annotated[float, Field(ge=0, le=50)] = 0.0


class LeakOut(Wire):
    """The gap through which a pour would run on: its ends, mm on the sheet, and its width, mm; none where it holds.

    held: something else encloses the place, so that it can be poured all the same.
    """

    found: bool
    start: tuple[float, float] = (0.0, 0.0)
    end: tuple[float, float] = (0.0, 0.0)
    width: float = 0.0
    held: bool = False


class JoiningRequest(Wire):
    revision: int
    picked: PickedIds


class JoiningOut(Wire):
    """The smallest growth, mm, that makes one part of all that is picked; how many parts there are."""

    growth: float
    parts: int


class WordsQuery(Wire):
    """picture: the one whose words are read; the first one where it is not said."""

    picture: Identifier | None = None


class WordsOut(Wire):
    words: tuple[Offer, ...]


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


class PlaceDrawingForm(DrawingForm):
    """A vector file to put on the sheet. width: mm, in place of its own. seed: its things are named after it."""

    revision: int
    width: Annotated[float, Field(gt=0, le=10_000)] | None = None
    seed: Seed


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
    """Outlines to export. picked: only these. dpi: of a PNG. tolerance: mm, of a DXF's polylines.

    kept: a DXF keeps the sheet's origin. width: so wide all of them together are written, mm; else as they are.
    middles: the middle lines of what was traced as strokes, with their widths, in place of outlines; filled shapes
    among them keep theirs.
    """

    revision: int
    kind: Literal["svg", "dxf", "png"]
    picked: list[Annotated[str, Field(max_length=48)]] = Field(default_factory=list, max_length=20_000)
    spline: bool = False
    tolerance: Annotated[float, Field(gt=0.0001, le=1)] = 0.01
    dpi: Annotated[float, Field(ge=10, le=2400)] = 300.0
    kept: bool = False
    width: Annotated[float, Field(gt=0, le=10_000)] | None = None
    middles: bool = False


class OutlinesOut(Wire):
    """Where the file is, what it is called, and its bytes."""

    url: str
    name: str
    bytes: int


class KeepMotif(Wire):
    """What is picked, to be kept under a name."""

    piece: PieceId
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
    kept: PieceId


class MotifForm(BaseModel):
    """An SVG or DXF file that becomes a motif."""

    drawing: FileStorage


class PlaceMotif(Wire):
    """A kept motif to put on the sheet."""

    revision: int
    motif: PieceId
    seed: Seed
