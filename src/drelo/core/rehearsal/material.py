"""How much filament a print takes."""

from __future__ import annotations

import math
from dataclasses import dataclass

from drelo.core.rehearsal.settings import Spool

MM3_OF_CM3 = 1000.0
G_OF_KG = 1000.0
MM_OF_M = 1000.0


@dataclass(frozen=True)
class Use:
    """Of one filament. volume: laid, mm³; purged: thrown away at changes, mm³; both together: metres, grams, price."""

    volume: float
    purged: float
    metres: float
    grams: float
    price: float
    enough: bool | None


def used(volume: float, purged: float, spool: Spool) -> Use:
    """What a volume (mm³) comes to. enough: whether the spool holds it, None where nobody weighed it."""
    total = volume + purged
    grams = total / MM3_OF_CM3 * spool.density
    metres = total / (math.pi * (spool.diameter / 2) ** 2) / MM_OF_M
    enough = None if spool.left is None else grams <= spool.left
    return Use(volume, purged, metres, grams, grams / G_OF_KG * spool.price, enough)
