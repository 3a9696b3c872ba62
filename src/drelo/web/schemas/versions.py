"""A piece's past."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Literal

from pydantic import Field

from drelo.core.piece.document import Document
from drelo.core.piece.flat import Flat
from drelo.core.piece.history.comparing import RegionsBetween
from drelo.core.piece.history.lines import Line, Step
from drelo.core.piece.history.telling import Told
from drelo.store.history import Past
from drelo.web.schemas.base import PieceId, Wire

Where = Literal["past", "ahead", "aside"]


class VersionPath(Wire):
    piece_id: PieceId
    revision: int


class VersionName(Wire):
    """null takes the name away."""

    name: Annotated[str, Field(min_length=1, max_length=120)] | None


class GoBack(Wire):
    """On which revision it is asked."""

    revision: int


class StepOut(Wire):
    """told: what it changed, the first of it; more: how much else. by: who made it, in a shared workshop."""

    revision: int
    made: str
    name: str | None
    told: tuple[Told, ...]
    more: int
    by: str | None

    @classmethod
    def of(cls, step: Step) -> StepOut:
        made = datetime.fromtimestamp(step.made, UTC).isoformat()
        return cls.model_construct(
            revision=step.revision, made=made, name=step.name, told=step.told, more=step.more, by=step.by
        )


class LineOut(Wire):
    """Steps that are read as one, the newest first. where: on the way to what is shown, ahead of it, or aside."""

    told: tuple[Told, ...]
    where: Where
    steps: tuple[StepOut, ...]

    @classmethod
    def of(cls, line: Line, where: Where) -> LineOut:
        return cls.model_construct(told=line.told, where=where, steps=tuple(StepOut.of(s) for s in line.steps))


class VersionList(Wire):
    """The past of a piece, the newest first. shown: the revision that stands."""

    shown: int
    lines: list[LineOut]

    @classmethod
    def of(cls, past: Past, found: list[Line]) -> VersionList:
        out = [LineOut.of(line, past.where[line.steps[0].revision]) for line in found]
        return cls.model_construct(shown=past.shown, lines=out)


class RegionsOut(Wire):
    """Names of regions that were only there then, are only there now, and have another outline now."""

    gone: tuple[str, ...]
    new: tuple[str, ...]
    reshaped: tuple[str, ...]

    @classmethod
    def of(cls, found: RegionsBetween) -> RegionsOut:
        return cls(gone=found.gone, new=found.new, reshaped=found.reshaped)


class VersionOut(Wire):
    """A version, and what differs from it now. since: from then to now."""

    revision: int
    made: str
    name: str | None
    document: Document
    flat: Flat
    since: tuple[Told, ...]
    regions: RegionsOut


class SolidFigures(Wire):
    """Of the solid that a version makes."""

    size_mm: tuple[float, float, float]
    volume_mm3: float


def moment(made: datetime) -> str:
    return made.replace(tzinfo=UTC).isoformat()
