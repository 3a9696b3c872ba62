"""Drawn things worked out: their contours, and the outlines that they cover."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.lettering.fonts import font_of
from drelo.core.lettering.layout import Letters, Setting, lettered
from drelo.core.outline import primitives
from drelo.core.outline.combine import combined, united_rings
from drelo.core.outline.contour import Contour, Matrix
from drelo.core.outline.fitting import outlines_of
from drelo.core.outline.nodes import closed, joined
from drelo.core.outline.outline import Outline
from drelo.core.outline.path_data import read_path
from drelo.core.outline.spline import drawn_line
from drelo.core.piece.drawn import Drawn, DrawnLine, DrawnPath, DrawnShape, Lettering, Symmetry

Fonts = Callable[[str], bytes]
# Ends of lines nearer to each other than this (mm) meet when a half is joined to its mirror image.
MEET = 1e-3
# Chord tolerance by which copies are seen to touch, mm.
TOUCH = 0.01


@dataclass(frozen=True, eq=False)
class Worked:
    """contours: as drawn, to be edited. outlines: what closed ones cover, copies among them. lines: open ones.

    names: of the outlines of words, the letters that each is of; else none.
    """

    contours: tuple[Contour, ...]
    outlines: tuple[Outline, ...]
    lines: tuple[Contour, ...]
    names: tuple[str, ...] = ()


def worked(thing: Drawn, fonts: Fonts) -> Worked:
    """A drawn thing with its copies. Raises Refusal when it cannot be drawn."""
    found: tuple[Letters, ...] = ()
    if isinstance(thing, Lettering):
        found = _lettering(thing, fonts)
        outlines = tuple(one.outline for one in found)
        contours = tuple(c for o in outlines for c in o.contours)
    else:
        contours = _contours(thing)
        outlines = tuple(_outlines([c for c in contours if c.closed]))
    lines = tuple(c for c in contours if not c.closed)
    if thing.follow is None:
        return Worked(contours, outlines, lines, tuple(one.text for one in found))
    maps = matrices(thing.follow)
    copies = [o.mapped(m) for m in maps for o in outlines]
    everything = (*lines, *(line.mapped(m) for m in maps for line in lines))
    whole, rest = _meeting(everything)
    return Worked(contours, tuple(_grown_together([*outlines, *copies, *_outlines(whole)])), tuple(rest))


def _grown_together(outlines: Sequence[Outline]) -> Sequence[Outline]:
    """Copies that touch each other are one outline, without a seam."""
    if len(outlines) < 2:
        return outlines
    areas = np.array([o.flattened(TOUCH) for o in outlines])
    one, other = shapely.STRtree(areas).query(areas, predicate="dwithin", distance=MEET)
    if not (one < other).any():
        return outlines
    return combined("unite", outlines, snapped=True)


def _outlines(contours: Sequence[Contour]) -> list[Outline]:
    if not contours:
        return []
    if len(contours) == 1 and _simple(contours[0]):
        only = contours[0]
        return [Outline(only if only.area > 0 else only.reversed())]
    return outlines_of(contours) if all(_simple(c) for c in contours) else united_rings(contours, "evenodd")


def _simple(contour: Contour) -> bool:
    """Whether a closed contour does not cross itself, as far as its polygon tells."""
    box = contour.bounds
    ring = contour.flattened(max(box[2] - box[0], box[3] - box[1], 1e-9) / 2000)
    if len(ring) < 3:
        return False
    return bool(shapely.LinearRing(ring).is_simple) and abs(contour.area) > 0


def _contours(thing: DrawnPath | DrawnLine | DrawnShape) -> tuple[Contour, ...]:
    if isinstance(thing, DrawnPath):
        return read_path(thing.path)
    if isinstance(thing, DrawnLine):
        stretches = [(s.kind, np.array(s.to)) for s in thing.stretches]
        line = drawn_line(np.array(thing.start), stretches, thing.closed)
        return (line,) if len(line) else ()
    return _shape(thing)


def _shape(thing: DrawnShape) -> tuple[Contour, ...]:
    if thing.form == "ring":
        # The diameters come in any order.
        inner, outer = sorted((thing.inner, thing.width))
        if inner == outer:
            raise Refusal("ring.no-band", "inner")
        found: tuple[Contour, ...] = primitives.ring(outer, inner, thing.aspect)
    elif thing.form == "circle":
        found = (primitives.ellipse(thing.width, thing.width * thing.aspect),)
    elif thing.form == "ellipse":
        found = (primitives.ellipse(thing.width, thing.height),)
    elif thing.form == "rectangle":
        found = (primitives.rectangle(thing.width, thing.height, thing.radius),)
    elif thing.form == "polygon":
        found = (primitives.regular(thing.sides, thing.width),)
    else:
        if thing.inner >= thing.width:
            raise Refusal("star.no-notches", "inner")
        found = (primitives.star(thing.sides, thing.width, thing.inner),)
    matrix = turned(thing.turn, thing.at)
    return tuple(c.mapped(matrix) for c in found)


def _lettering(thing: Lettering, fonts: Fonts) -> tuple[Letters, ...]:
    font = font_of(fonts(thing.font))
    missing = font.missing(thing.text)
    if missing:
        raise Refusal("font.no-letters", "font", letters=tuple(missing[:6]))
    setting = Setting(thing.height, thing.width, thing.spacing, thing.leading, thing.align, thing.path, thing.radius)
    matrix = turned(thing.turn, thing.at)
    return tuple(Letters(one.outline.mapped(matrix), one.text) for one in lettered(thing.text, font, setting))


def turned(degrees: float, at: tuple[float, float]) -> Matrix:
    """Turned round the origin, then moved to a point."""
    angle = math.radians(degrees)
    c, s = math.cos(angle), math.sin(angle)
    return (c, s, -s, c, at[0], at[1])


def matrices(symmetry: Symmetry) -> list[Matrix]:
    """The maps that give the copies of what is repeated, the thing itself left out."""
    x, y = symmetry.at
    if symmetry.kind == "mirror":
        return [mirror(symmetry.at, symmetry.angle)]
    found = []
    for i in range(1, symmetry.count):
        angle = 2 * math.pi * i / symmetry.count
        c, s = math.cos(angle), math.sin(angle)
        found.append((c, s, -s, c, x - c * x + s * y, y - s * x - c * y))
    return found


def mirror(at: tuple[float, float], degrees: float) -> Matrix:
    """Over the line through a point at an angle."""
    double = 2 * math.radians(degrees)
    c, s = math.cos(double), math.sin(double)
    x, y = at
    return (c, s, s, -c, x - c * x - s * y, y - s * x + c * y)


def _meeting(lines: Sequence[Contour]) -> tuple[list[Contour], list[Contour]]:
    """Lines whose ends meet made one: those that close, and those that stay open."""
    rest = list(lines)
    done: list[Contour] = []
    while rest:
        line = rest.pop(0)
        while True:
            near = next((i for i, other in enumerate(rest) if _touch(line, other)), None)
            if near is None:
                break
            line = joined(line, rest.pop(near))
        done.append(line)
    whole = [closed(c) for c in done if _ends_meet(c)]
    return whole, [c for c in done if not _ends_meet(c)]


def _ends(line: Contour) -> tuple[NDArray[np.float64], ...]:
    return line.curves[0, 0], line.curves[-1, 3]


def _touch(one: Contour, other: Contour) -> bool:
    return any(float(np.hypot(*(a - b))) < MEET for a in _ends(one) for b in _ends(other))


def _ends_meet(line: Contour) -> bool:
    start, end = _ends(line)
    return len(line) > 1 and float(np.hypot(*(end - start))) < MEET
