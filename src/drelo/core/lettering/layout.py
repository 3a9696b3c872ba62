"""Lines of text set as outlines: straight, or along a circle."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from drelo.core.errors import Refusal
from drelo.core.lettering.fonts import Font
from drelo.core.outline.combine import united_rings
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline, bounds

Align = Literal["left", "middle", "right"]
Path = Literal["line", "above", "below"]
MAX_LETTERS = 400
# Distance of lines against the height of capitals.
LEADING = 1.6


@dataclass(frozen=True)
class Setting:
    """How text is set.

    height: of capitals. width: when given, everything is scaled to it, and height follows.
    spacing: added between letters, leading: between lines, both against the height of capitals.
    path: on a straight line, or on a circle of `radius`: above it reading clockwise, or below it.
    """

    height: float = 10.0
    width: float | None = None
    spacing: float = 0.0
    leading: float = LEADING
    align: Align = "middle"
    path: Path = "line"
    radius: float = 30.0


def letters(text: str, font: Font, setting: Setting) -> list[Outline]:
    """Outlines of a text round the origin, y down; where letters overlap, as in a joined script, they are one.

    Raises Refusal when nothing can be drawn.
    """
    lines = text.split("\n")
    if not text.strip():
        raise Refusal("Type a word to set.", "text")
    if len(text) > MAX_LETTERS:
        raise Refusal(f"A lettering has at most {MAX_LETTERS} letters.", "text")
    scale = setting.height / font.capital
    contours: list[Contour] = []
    for number, words in enumerate(lines):
        contours += _line(words, font, setting, scale, number)
    if not contours:
        raise Refusal("This font has no letters for this text.", "text")
    outlines = united_rings(contours)
    box = bounds(outlines)
    if box is None:
        raise Refusal("This font has no letters for this text.", "text")
    if setting.width is not None and setting.path == "line":
        by = setting.width / (box[2] - box[0])
        outlines = [o.transformed(by) for o in outlines]
        box = (box[0] * by, box[1] * by, box[2] * by, box[3] * by)
    if setting.path != "line":
        return outlines
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    return [o.transformed(1, -x, -y) for o in outlines]


def _line(words: str, font: Font, setting: Setting, scale: float, number: int) -> Sequence[Contour]:
    glyphs = font.shape(words)
    extra = setting.spacing * setting.height
    total = sum(g.advance for g in glyphs) * scale + extra * max(len(glyphs) - 1, 0)
    start = {"left": 0.0, "middle": -total / 2, "right": -total}[setting.align]
    down = number * setting.leading * setting.height
    placed: list[Contour] = []
    for i, glyph in enumerate(glyphs):
        x = start + glyph.x * scale + extra * i
        for contour in font.contours(glyph.number):
            if setting.path == "line":
                placed.append(contour.transformed(scale, x, down - glyph.y * scale, flip_y=True))
            else:
                half = glyph.advance * scale / 2
                placed.append(_bent(contour.transformed(scale, -half, -glyph.y * scale, True), x + half, down, setting))
    return placed


def _bent(letter: Contour, along: float, down: float, setting: Setting) -> Contour:
    """A letter that stands on a circle round the origin, its middle so far along it."""
    if setting.path == "above":
        radius = setting.radius - down
        angle = along / radius if radius else 0.0
        c, s = float(np.cos(angle)), float(np.sin(angle))
        return letter.mapped((c, s, -s, c, radius * s, -radius * c))
    # Below: the letters' feet point outward, and their tops to the centre.
    radius = setting.radius + down
    angle = along / radius if radius else 0.0
    c, s = float(np.cos(angle)), float(np.sin(angle))
    return letter.mapped((c, -s, s, c, radius * s, radius * c))
