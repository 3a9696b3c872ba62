"""The shelf of filaments."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from drelo.core.piece.document import Filament
from drelo.core.piece.drawn import Colour, Identifier
from drelo.web.schemas.base import Wire


class FilamentPath(BaseModel):
    filament: Identifier


class PutFilament(Wire):
    name: Annotated[str, Field(min_length=1, max_length=120)]
    colour: Colour
    material: Annotated[str, Field(max_length=40)] = "PLA"


class FilamentList(Wire):
    filaments: list[Filament]
