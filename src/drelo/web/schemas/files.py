"""Files that are taken away: of one piece, or of many names."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from drelo.application.products import ProductFigures
from drelo.core.piece.drawn import Identifier
from drelo.formats.name_list import MAX_BYTES, MAX_NAMES
from drelo.formats.product import FileKind
from drelo.web.schemas.base import Wire
from drelo.work.many import Packing

BedSide = Annotated[float, Field(gt=0, le=5000)]


class TakeAwayOut(ProductFigures, Wire):
    """A file that was written, read back and checked; `url` serves it."""

    url: str
    name: str
    sealed: bool


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
