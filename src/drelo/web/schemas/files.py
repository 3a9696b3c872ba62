"""Files that are taken away: of one piece, or of many names."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from drelo.application.products import ProductFigures
from drelo.core.piece.drawn import Identifier
from drelo.formats.name_list import MAX_BYTES, MAX_NAMES
from drelo.formats.product import FileKind
from drelo.web.schemas.base import Wire
from drelo.work.many import Packing

BedSide = Annotated[float, Field(gt=0, le=5000)]


# How far chords keep off curves unless told, mm.
WITHIN = 0.008


class TakeAwayOut(ProductFigures, Wire):
    """A file that was written, read back and checked; `url` serves it."""

    url: str
    name: str
    sealed: bool


class TakeAwayRequest(Wire):
    """stl: one surface of all; stl-each: one a filament, in a zip. within: how far chords may keep off curves, mm."""

    revision: int
    kind: FileKind
    within: Annotated[float, Field(ge=0.0005, le=1)] = WITHIN


class NameList(Wire):
    """Names as they are typed or pasted."""

    text: Annotated[str, Field(max_length=MAX_BYTES)]


class ManyNames(Wire):
    names: list[str]


class MakeOne(Wire):
    """One name of many.

    words: the lettering that it takes the place of, the first one when it is not said. among: how many names there are.
    """

    revision: int
    name: Annotated[str, Field(max_length=200)]
    words: Identifier | None = None
    among: Annotated[int, Field(ge=1, le=MAX_NAMES)] = 1
    packing: Packing = "beds"
    within: Annotated[float, Field(ge=0.0005, le=1)] = WITHIN


class MadeOne(Wire):
    """key: by which it is packed."""

    key: str


class MadeName(Wire):
    key: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    name: Annotated[str, Field(min_length=1, max_length=200)]


class LayNames(Wire):
    """bed: its width and depth; spacing: between pieces; both mm."""

    made: Annotated[list[MadeName], Field(min_length=1, max_length=MAX_NAMES)]
    bed: tuple[BedSide, BedSide] = (220.0, 220.0)
    spacing: Annotated[float, Field(ge=0, le=100)] = 4.0


class LaidName(MadeName):
    """at: where its lower left corner lies on the bed (mm), about which it was turned (radians)."""

    at: tuple[float, float]
    turn: float = 0.0


class BedsOut(Wire):
    """Beds, the first first, with what lies on each."""

    beds: list[list[LaidName]]


class MakeBed(Wire):
    """number: of the bed, from 1."""

    number: Annotated[int, Field(ge=1, le=MAX_NAMES)]
    laid: Annotated[list[LaidName], Field(min_length=1, max_length=MAX_NAMES)]


class PackMany(Wire):
    """Files that were made, all of one kind."""

    made: Annotated[list[MadeName], Field(min_length=1, max_length=MAX_NAMES)]
    suffix: Literal["stl", "3mf"]


class PackedOut(Wire):
    """count: how many files."""

    url: str
    name: str
    count: int


class FileWeight(Wire):
    """What a file would come to."""

    triangles: int
    bytes: int
