"""Words that were read in the picture, offered as lettering in their places."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.lettering.fonts import Font
from drelo.core.lettering.likeness import Likeness, likeness
from drelo.core.outline.outline import only_areas
from drelo.core.piece.drawn import Point
from drelo.core.piece.edits import Picked
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.piece.shaping.workshop import ROUGHLY, Known, Workshop

# A traced outline is a letter when so much of its area lies in the box of the words.
MOSTLY = 0.6
# A font that other lines have is taken though another shares so much more of the ink of this one.
HARDLY_WORSE = 0.08


@dataclass(frozen=True)
class ReadLine:
    """A line of words as it was read. box: left, top, right, bottom, px. confidence: 0 to 1."""

    text: str
    box: tuple[float, float, float, float]
    confidence: float


@dataclass(frozen=True)
class Offer:
    """Lettering for words that were read: a font that is like them, where it stands, mm on the sheet.

    likeness: share of the ink that it covers too, 0 to 1. under: traced letters whose place it takes.
    """

    text: str
    confidence: float
    font: str
    likeness: float
    at: Point
    height: float
    width: float
    under: tuple[Picked, ...]


def offers(
    shop: Workshop, picture: PlacedPicture, lines: Sequence[ReadLine], fonts: Mapping[str, Font]
) -> tuple[Offer, ...]:
    """What each line that was read in a picture would be as lettering, in the order in which they were read.

    fonts: by the names that lettering knows them by.
    """
    traced = [r for r in shop.regions if r.shape.picture == picture.id]
    rough = [r.shape.outline.flattened(ROUGHLY) for r in traced]
    letters = [_letters(_on_sheet(line, picture), traced, rough) for line in lines]
    alike = [_alike(line, ink, fonts) for line, (_, ink) in zip(lines, letters, strict=True)]
    chosen = shared_fonts([{name: found.shared for name, found in each.items()} for each in alike])
    return tuple(
        _offer(line, under, ink, font, each[font])
        for line, (under, ink), each, font in zip(lines, letters, alike, chosen, strict=True)
    )


def shared_fonts(alike: Sequence[Mapping[str, float]]) -> tuple[str, ...]:
    """The font of each line: one that suits other lines too, where it is hardly less like this one than the best.

    alike: of each line the fonts that have its letters, with the share of ink in common, 0 to 1.
    """
    chosen: dict[int, str] = {}
    while len(chosen) < len(alike):
        suits: dict[str, list[int]] = {}
        for i, each in enumerate(alike):
            best = max(each.values())
            for name, shared in each.items():
                if i not in chosen and shared >= best - HARDLY_WORSE:
                    suits.setdefault(name, []).append(i)
        name, found = max(suits.items(), key=lambda f: (len(f[1]), sum(alike[i][f[0]] for i in f[1])))
        chosen |= dict.fromkeys(found, name)
    return tuple(chosen[i] for i in range(len(alike)))


def _on_sheet(line: ReadLine, picture: PlacedPicture) -> tuple[float, float, float, float]:
    x0, y0, x1, y1 = line.box
    corners = [picture.place.on_sheet(p) for p in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))]
    across, down = zip(*corners, strict=True)
    return min(across), min(down), max(across), max(down)


def _letters(
    line_box: tuple[float, float, float, float], traced: Sequence[Known], rough: Sequence[BaseGeometry]
) -> tuple[tuple[Picked, ...], BaseGeometry]:
    """The traced outlines that are letters of a line, and their ink; without any, the line's box."""
    x0, y0, x1, y1 = line_box
    around = 0.1 * (y1 - y0)
    box = shapely.box(x0 - around, y0 - around, x1 + around, y1 + around)
    found = [
        (region, area)
        for region, area in zip(traced, rough, strict=True)
        if area.area > 0 and shapely.intersection(area, box).area > MOSTLY * area.area
    ]
    under = tuple(Picked(id=r.id, mark=r.mark) for r, _ in found)
    ink = only_areas(shapely.union_all([area for _, area in found])) if found else shapely.box(x0, y0, x1, y1)
    return under, ink


def _alike(line: ReadLine, ink: BaseGeometry, fonts: Mapping[str, Font]) -> dict[str, Likeness]:
    """How like a line every font is that has its letters. Raises Refusal where none has them."""
    found: dict[str, Likeness] = {}
    for name, font in fonts.items():
        try:
            found[name] = likeness(line.text, font, ink)
        except Refusal:
            # A font without these letters is not offered.
            continue
    if not found:
        raise Refusal("words.no-font", "words", text=line.text)
    return found


def _offer(line: ReadLine, under: tuple[Picked, ...], ink: BaseGeometry, font: str, found: Likeness) -> Offer:
    left, top, right, bottom = ink.bounds
    return Offer(
        text=line.text,
        confidence=line.confidence,
        font=font,
        likeness=found.shared,
        at=((left + right) / 2, (top + bottom) / 2),
        height=found.height,
        width=right - left,
        under=under,
    )
