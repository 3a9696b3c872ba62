"""What every answer and request is made of: their base, problems, and addresses."""

from __future__ import annotations

from functools import cache
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from drelo.core.piece.drawn import Identifier

PieceId = Annotated[str, Field(max_length=22)]
Seed = Annotated[str, Field(pattern=r"^[A-Za-z0-9_]{1,24}$", description="New things are named after it.")]


class Described(BaseModel):
    @classmethod
    def model_json_schema(cls, *args: Any, **named: Any) -> dict[str, Any]:
        """As pydantic has it, made once: every route asks for it again, which was a quarter of the start."""
        return _schema(cls, args, tuple(named.items()))


@cache
def _schema(model: type[Described], args: tuple[Any, ...], named: tuple[tuple[str, Any], ...]) -> dict[str, Any]:
    return super(Described, model).model_json_schema(*args, **dict(named))


class Wire(Described):
    model_config = ConfigDict(extra="forbid", json_schema_serialization_defaults_required=True)


class Problem(Described):
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
