"""What goes over the wire, as the OpenAPI description states it."""

from __future__ import annotations

from datetime import UTC
from typing import Annotated, Any, Literal

from flask_openapi3 import FileStorage
from pydantic import BaseModel, ConfigDict, Field

from drelo.core.piece.document import Document, Mark, RegionHeight
from drelo.core.piece.edits import Edit
from drelo.core.piece.evaluate import Flat
from drelo.store.pieces import State
from drelo.work.tasks import SealedFile


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


class PictureForm(BaseModel):
    """A picture to begin a piece with."""

    picture: FileStorage


class PictureForPiece(BaseModel):
    """A picture for a piece that exists, and the revision that it is put on."""

    picture: FileStorage
    revision: int


class EditRequest(Wire):
    """An edit and the revision that it was made on."""

    revision: int
    edit: Edit


class OnRevision(Wire):
    revision: int


class TakeAwayRequest(Wire):
    revision: int
    kind: Literal["stl", "3mf"]
    fineness: Literal["draft", "normal", "fine"] = "normal"


class PieceOut(Wire):
    """A piece as it stands."""

    id: str
    name: str
    revision: int
    can_undo: bool
    can_redo: bool
    updated: str
    document: Document

    @classmethod
    def of(cls, state: State) -> PieceOut:
        return cls(
            id=state.id,
            name=state.name,
            revision=state.revision,
            can_undo=state.can_undo,
            can_redo=state.can_redo,
            updated=state.updated.replace(tzinfo=UTC).isoformat(),
            document=state.document,
        )


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
            empty=state.document.source is None,
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
    mark: Mark


class UnderlayOut(Wire):
    """Where the picture lies, mm; `look` names the picture as its care leaves it."""

    look: str
    x: float
    y: float
    width: float
    height: float


class SwatchOut(Wire):
    """A colour of the picture: #rrggbb, its share of the area, whether it is no shape, whether it is see-through."""

    colour: str
    share: float
    background: bool
    clear: bool


class FlatOut(Wire):
    """All that the flat view and the tuning show; lengths in mm."""

    width: float
    height: float
    mm_per_px: float
    underlay: UnderlayOut | None
    regions: list[RegionOut]
    base_path: str
    base_box: tuple[float, float, float, float] | None
    level: float | None
    speck: float | None
    dropped: int
    nodes: int
    total_height: float
    remarks: list[str]
    swatches: list[SwatchOut]
    tones: list[float]
    lost_path: str
    stroke_width: float | None

    @classmethod
    def of(cls, flat: Flat) -> FlatOut:
        return cls(
            width=flat.width,
            height=flat.height,
            mm_per_px=flat.mm_per_px,
            underlay=None if flat.underlay is None else UnderlayOut(**vars(flat.underlay)),
            regions=[
                RegionOut(**{**vars(r), "mark": Mark(anchor=r.mark.anchor, box=r.mark.box)}) for r in flat.regions
            ],
            base_path=flat.base_path,
            base_box=flat.base_box,
            level=flat.level,
            speck=flat.speck,
            dropped=flat.dropped,
            nodes=flat.nodes,
            total_height=flat.total_height,
            remarks=list(flat.remarks),
            swatches=[SwatchOut(**vars(s)) for s in flat.swatches],
            tones=list(flat.tones),
            lost_path=flat.lost_path,
            stroke_width=flat.stroke_width,
        )


class BenchOut(Wire):
    """A piece and its flat view."""

    piece: PieceOut
    flat: FlatOut


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
