"""The shelf of filaments."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from drelo.core.piece.document import Density, Diameter, Price
from drelo.core.piece.drawn import Colour, Identifier
from drelo.web.schemas.base import Wire


class FilamentPath(BaseModel):
    filament: Identifier


class PutFilament(Wire):
    """weighed: g left on the spool, where it was weighed."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    colour: Colour
    material: Annotated[str, Field(max_length=40)] = "PLA"
    density: Density = 1.24
    diameter: Diameter = 1.75
    price: Price = 22.0
    weighed: Annotated[float, Field(ge=0, le=100_000)] | None = None


class ShelfFilament(PutFilament):
    id: Identifier


class FilamentList(Wire):
    filaments: list[ShelfFilament]
