"""Lines of text set as outlines: straight, or along a circle."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np
import shapely

from drelo.core.errors import Refusal
from drelo.core.outline.combine import united_rings
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline, bounds

if TYPE_CHECKING:
    from drelo.core.lettering.fonts import Font

Align = Literal["left", "middle", "right"]
Path = Literal["line", "above", "below"]
MAX_LETTERS = 400
# Distance of lines against the height of capitals.
LEADING = 1.6
# Chords by which it is seen of which letters an outline is, against the extent of all.
ROUGHLY = 2000


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


@dataclass(frozen=True, eq=False)
class Letters:
    """An outline of a lettering, y down. text: the letters that it is of, in their order."""

    outline: Outline
    text: str


def letters(text: str, font: Font, setting: Setting) -> list[Outline]:
    """Outlines of a text round the origin, y down; where letters overlap, as in a joined script, they are one.

    Raises Refusal when nothing can be drawn.
    """
    return [found.outline for found in lettered(text, font, setting)]


def lettered(text: str, font: Font, setting: Setting) -> list[Letters]:
    """As `letters`, each outline with the letters that it is of."""
    if not text.strip():
        raise Refusal("lettering.empty", "text")
    if len(text) > MAX_LETTERS:
        raise Refusal("lettering.too-long", "text", most=MAX_LETTERS)
    scale = setting.height / font.capital
    placed = [one for i, words in enumerate(text.split("\n")) for one in _line(words, font, setting, scale, i)]
    outlines = united_rings([contour for contour, _, _ in placed]) if placed else []
    box = bounds(outlines)
    if box is None:
        raise Refusal("lettering.letters-missing", "text")
    names = _texts(outlines, placed)
    if setting.width is not None and setting.path == "line":
        by = setting.width / (box[2] - box[0])
        outlines = [o.transformed(by) for o in outlines]
        box = (box[0] * by, box[1] * by, box[2] * by, box[3] * by)
    if setting.path == "line":
        x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        outlines = [o.transformed(1, -x, -y) for o in outlines]
    return [Letters(outline, name) for outline, name in zip(outlines, names, strict=True)]


_Placed = tuple[Contour, int, str]
"""A contour of a letter, the letter's number in its line, and its text."""


def _texts(outlines: Sequence[Outline], placed: Sequence[_Placed]) -> list[str]:
    """The letters of each outline: those whose contours begin on it, or in it."""
    box = bounds(outlines) or (0.0, 0.0, 0.0, 0.0)
    fine = max(box[2] - box[0], box[3] - box[1]) / ROUGHLY
    tree = shapely.STRtree([o.flattened(fine) for o in outlines])
    starts = shapely.points([contour.curves[0, 0] for contour, _, _ in placed])
    nearest = np.asarray(tree.nearest(starts))
    found: list[dict[int, str]] = [{} for _ in outlines]
    for place, (_, number, text) in zip(nearest.tolist(), placed, strict=True):
        found[place].setdefault(number, text)
    return ["".join(found[i].values()) for i in range(len(outlines))]


def _line(words: str, font: Font, setting: Setting, scale: float, number: int) -> Sequence[_Placed]:
    glyphs = font.shape(words)
    ends = sorted({*(g.cluster for g in glyphs), len(words)})
    extra = setting.spacing * setting.height
    total = sum(g.advance for g in glyphs) * scale + extra * max(len(glyphs) - 1, 0)
    start = {"left": 0.0, "middle": -total / 2, "right": -total}[setting.align]
    down = number * setting.leading * setting.height
    placed: list[_Placed] = []
    for i, glyph in enumerate(glyphs):
        x = start + glyph.x * scale + extra * i
        own = words[glyph.cluster : ends[ends.index(glyph.cluster) + 1]]
        for contour in font.contours(glyph.number):
            if setting.path == "line":
                set_down = contour.transformed(scale, x, down - glyph.y * scale, flip_y=True)
            else:
                half = glyph.advance * scale / 2
                set_down = _bent(contour.transformed(scale, -half, -glyph.y * scale, True), x + half, down, setting)
            # Letters of later lines come after those of earlier ones.
            placed.append((set_down, number * MAX_LETTERS + i, own))
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
