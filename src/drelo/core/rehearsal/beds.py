"""Copies of a piece on beds, in the middle of each."""

from __future__ import annotations

import math

from drelo.core.rehearsal.packing import packed
from drelo.core.rehearsal.settings import Printer

Place = tuple[float, float]


def on_beds(size: tuple[float, float], copies: int, printer: Printer, spacing: float) -> list[list[Place]]:
    """Lower left corners of copies of a size (mm), on as many beds as it takes; one too large lies in the middle."""
    width, depth = room(printer)
    if size[0] > width or size[1] > depth:
        alone = [_centred([(0.0, 0.0)], size, printer)]
        return alone * copies
    beds = packed([size] * copies, (width, depth), spacing)
    return [_centred([(x, y) for _, x, y in bed], size, printer) for bed in beds]


def room(printer: Printer) -> tuple[float, float]:
    """The rectangle on a bed that is packed, mm."""
    if printer.bed == "round":
        side = printer.width / math.sqrt(2)
        return side, side
    return printer.width, printer.depth


def _centred(places: list[Place], size: tuple[float, float], printer: Printer) -> list[Place]:
    wide = max(x for x, _ in places) + size[0]
    deep = max(y for _, y in places) + size[1]
    bed = (printer.width, printer.width if printer.bed == "round" else printer.depth)
    return [(x + (bed[0] - wide) / 2, y + (bed[1] - deep) / 2) for x, y in places]
