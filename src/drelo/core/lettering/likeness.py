"""How much a font set over letters looks like them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.lettering.fonts import Font
from drelo.core.lettering.layout import Setting, letters
from drelo.core.outline.outline import bounds, only_areas

# Chord tolerance against the height of capitals.
CHORD = 0.005


@dataclass(frozen=True)
class Likeness:
    """Words set as wide as the ink and in its middle, in its unit: how high capitals are, and which share of what
    either covers both cover, 0 to 1."""

    height: float
    shared: float


def likeness(text: str, font: Font, ink: BaseGeometry) -> Likeness:
    """A text in a font held against ink, y down. Raises Refusal when the font has no letter for it."""
    outlines = letters(text, font, Setting(height=1.0))
    x0, y0, x1, y1 = bounds(outlines) or (0.0, 0.0, 1.0, 1.0)
    left, top, right, bottom = ink.bounds
    height = (right - left) / max(x1 - x0, 1e-9)
    area = only_areas(shapely.union_all([o.flattened(CHORD) for o in outlines]))
    move = np.array([left + right - height * (x0 + x1), top + bottom - height * (y0 + y1)]) / 2
    set_over = shapely.transform(area, lambda xy: xy * height + move)
    whole = float(shapely.union(ink, set_over).area)
    return Likeness(height, float(shapely.intersection(ink, set_over).area) / whole if whole else 0.0)
