"""A design seen from above, as a small PNG."""

from __future__ import annotations

import numpy as np
import shapely

from drelo.core.form.checks import polygonal
from drelo.core.form.columns import Design
from drelo.formats.png_out import MM_PER_INCH, write_png

PIXELS = 256
MARGIN = 0.05
NOTHING = "#ffffff"


def design_picture(design: Design) -> bytes:
    """PNG bytes of a square picture: every layer in the filament on its top, with a little margin round it all."""
    boxes = shapely.total_bounds(design.layers)
    side = float(max(boxes[2] - boxes[0], boxes[3] - boxes[1])) * (1 + 2 * MARGIN)
    middle = (boxes[:2] + boxes[2:]) / 2
    corner = np.array([middle[0] - side / 2, middle[1] + side / 2])
    shapes = []
    for layer, column in zip(design.layers, design.columns, strict=True):
        colour = design.filaments[column[-1].filament].colour if column else NOTHING
        placed = shapely.transform(layer, lambda xy: (xy - corner) * np.array([1.0, -1.0]))
        shapes += [(outline, colour) for outline in polygonal(placed)]
    return write_png(shapes, side, side, PIXELS / side * MM_PER_INCH)
