"""The printer, and what is printed on it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from drelo.device.job import Grams, Speed, Status
from drelo.web.schemas.base import PieceId, Wire

PrintId = Annotated[str, Field(max_length=22)]


class PrintPath(Wire):
    job: PrintId


class PrintQuery(Wire):
    """piece: only its prints."""

    piece: PieceId | None = None


class PrintPiece(Wire):
    """bed: from 0, of the piece's copies."""

    revision: int
    bed: Annotated[int, Field(ge=0, le=1000)] = 0


class PrintOut(Wire):
    """A print. layer: how far it came. grams: by the filament's name, once it has ended."""

    id: str
    piece: str | None
    plan: str | None
    title: str
    rehearsal: str
    state: Literal["printing", "done", "stopped", "failed"]
    words: str
    layer: int
    layers: int
    seconds: float
    grams: dict[str, float]
    begun: datetime
    ended: datetime | None


class PrintList(Wire):
    prints: list[PrintOut]


class DeviceOut(Wire):
    """status: null where the printer does not answer. print: what is on its bed, as the workshop knows it."""

    status: Status | None
    print: PrintOut | None


class ActOnPrint(Wire):
    """grams: of another spool, where it was weighed. why: of a fault on purpose."""

    do: Literal["pause", "resume", "stop", "confirm", "refill", "fault"]
    grams: Grams | None = None
    why: Annotated[str, Field(min_length=1, max_length=120)] = "The nozzle is blocked."


class SetPace(Wire):
    times: Speed
