"""What every answer and request is made of: their base, problems, and addresses."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from drelo.core.piece.drawn import Identifier

PieceId = Annotated[str, Field(max_length=22)]
Seed = Annotated[str, Field(pattern=r"^[A-Za-z0-9_]{1,24}$", description="New things are named after it.")]


class Wire(BaseModel):
    model_config = ConfigDict(extra="forbid", json_schema_serialization_defaults_required=True)


class Problem(BaseModel):
    """RFC 9457 problem details; `detail` says what to do."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    field: str = ""


class PiecePath(Wire):
    piece_id: PieceId


class SolidPath(Wire):
    piece_id: PieceId
    revision: int


class AttemptPath(Wire):
    piece_id: PieceId
    revision: int
    picture: Identifier
    attempt: Identifier


class WayPath(Wire):
    piece_id: PieceId
    revision: int
    picture: Identifier
    mode: Literal["ink", "colours", "strokes"]


class AssetPath(Wire):
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class FilePath(Wire):
    key: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class FileQuery(Wire):
    name: Annotated[str, Field(max_length=120)] = "piece"


class LookPath(Wire):
    piece_id: str
    look: str


class OnRevision(Wire):
    """changes_only: the answer holds what differs from the revision, not the whole."""

    revision: int
    changes_only: bool = False


class Health(Wire):
    status: Literal["ok"] = "ok"


class Readiness(Wire):
    """ready: whether pieces can be worked on. workers: that are ready; running, waiting: jobs.

    room: on the disk; with none nothing is written. free: bytes, where it is known.
    """

    ready: bool
    database: bool
    workers: int
    running: int
    waiting: int
    room: Literal["plenty", "little", "none"]
    free: int | None
