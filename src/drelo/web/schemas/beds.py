"""Bed plans and their files."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from drelo.core.rehearsal.plan import MOST_THINGS, BedPlan, Thing, Trouble
from drelo.core.rehearsal.settings import Key, Manner, Printer, Title
from drelo.formats.rehearsal_out import RehearsalReport
from drelo.web.schemas.base import Wire


class PlanPath(Wire):
    plan: Annotated[str, Field(max_length=22)]


class BedPath(Wire):
    plan: Annotated[str, Field(max_length=22)]
    bed: Annotated[int, Field(ge=0, le=1000)]


class PlanCard(Wire):
    """A plan in the list: how many pieces, copies and beds it has."""

    id: str
    name: str
    updated: datetime
    pieces: int
    copies: int
    beds: int


class PlanList(Wire):
    plans: list[PlanCard]


class NewPlan(Wire):
    """Pieces to lay; without a name it is called after them, and without a printer the first one is taken."""

    things: Annotated[tuple[Thing, ...], Field(min_length=1, max_length=MOST_THINGS)]
    name: Title | None = None
    printer: Key | None = None


class PutPlan(Wire):
    """A plan in place of one of a version.

    lay: nothing, copies that have no place yet, or all that are not locked.
    """

    version: int
    plan: BedPlan
    lay: Literal["nothing", "new", "unlocked"] = "new"


class LaidPiece(Wire):
    """A piece of a plan as it stands. outline: rings, mm, its corner at 0, 0. missing: why there is nothing to lay."""

    title: str
    outline: list[list[float]]
    size: tuple[float, float, float]
    colours: tuple[str, ...]
    missing: str


class PlanOut(Wire):
    """amiss: what is wrong with each place."""

    id: str
    version: int
    plan: BedPlan
    printer: Printer
    pieces: list[LaidPiece]
    amiss: list[Trouble | None]


class BedFileOut(Wire):
    url: str
    name: str


class BedRehearsalOut(Wire):
    """remarks: what of the pieces on the bed does not go together."""

    key: str
    printer: Printer
    manner: Manner
    report: RehearsalReport
    remarks: list[str]
