"""The print that a stamp makes, or the biscuit that a cutter cuts, as a PNG."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.checks import polygonal
from drelo.core.form.outcome import Outcome
from drelo.formats.png_out import write_png

# Round the outcome, as a share of its longer side.
MARGIN = 0.06
PAPER, INK, CLOSED = "#ffffff", "#23262b", "#d98a00"
DOUGH, CRUST, PRESSED = "#e2b980", "#b98145", "#a06f3c"
# How far the crust's colour reaches in, mm.
RIM = 1.0


def outcome_picture(found: Outcome, is_dough: bool, dpi: float) -> bytes:
    """PNG bytes, on white, what closes in the colour of remarks. Raises Refusal when there is nothing, or too much."""
    if found.shape.is_empty:
        raise Refusal("outcome.nothing")
    left, low, right, high = found.shape.bounds
    margin = MARGIN * max(right - left, high - low)
    width, height = right - left + 2 * margin, high - low + 2 * margin
    if is_dough:
        inside = shapely.buffer(found.shape, -RIM)
        layers = [(found.shape, CRUST), (inside, DOUGH), (found.marks, PRESSED), (found.closed, CLOSED)]
    else:
        layers = [(found.shape, INK), (found.closed, CLOSED)]
    layers.insert(0, (shapely.box(left - margin, low - margin, right + margin, high + margin), PAPER))

    def placed(shape: BaseGeometry) -> BaseGeometry:
        return shapely.transform(
            shape, lambda xy: np.column_stack([xy[:, 0] - left + margin, high + margin - xy[:, 1]])
        )

    shapes = [(outline, colour) for shape, colour in layers for outline in polygonal(placed(shape))]
    return write_png(shapes, width, height, dpi)
