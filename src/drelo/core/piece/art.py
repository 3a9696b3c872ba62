"""All outlines of a piece on its sheet: what was traced of its pictures, here or there, what the pen drew, things."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline
from drelo.core.picture.decode import Picture
from drelo.core.picture.reduce import factor_for
from drelo.core.piece.document import Document
from drelo.core.piece.drawing import Fonts, Worked, worked
from drelo.core.piece.drawn import Drawn, Point
from drelo.core.piece.mending import mended
from drelo.core.piece.pictures import Mend, PenLine, PlacedPicture, Placement, TraceSettings
from drelo.core.region.identity import Footprint, recognise
from drelo.core.trace.modes import MOST_PIXELS, trace
from drelo.core.trace.pen.pen import Stretch, pen_contour
from drelo.core.trace.trace import Trace

# Pictures with more pixels are worked on reduced, until the maker asks for all of it.
# A line of the pen reaches so many sides of its picture beyond it.
ASIDE = 4
WORKING_PIXELS = 12_000_000
# A closed line of the pen that encloses nothing at this chord tolerance (px, or mm of a drawn thing) is only a line.
ROUGH = 0.5
# What encloses less than this share of its box's square is no area, however finely it is looked at.
NO_AREA = 1e-9

T = TypeVar("T")
Stage = Callable[[Hashable, Callable[[], T]], T]


@dataclass(frozen=True, eq=False)
class Shape:
    """An outline, mm on the sheet, and where it is from. fill: #rrggbb in mode colours.

    picture: id of the picture that it was traced from, area: of the area it was traced in, pixel: mm of a pixel.
    pen: id of the pen's line that it is. drawn: id of the drawn thing, and part: which of its outlines.
    seen: the outline by which it is recognised: in px of its picture, before it was changed by hand; else itself.
    changed: it was changed by hand. beneath: it lies under what was traced. letters: of words, those that it is of.
    """

    outline: Outline
    fill: str | None = None
    picture: str | None = None
    area: str | None = None
    pixel: float = 1.0
    pen: str | None = None
    drawn: str | None = None
    part: int = 0
    seen: Outline | None = None
    changed: bool = False
    beneath: bool = False
    letters: str = ""


@dataclass(frozen=True, eq=False)
class PictureTrace:
    """A trace of a picture, whole or of one of its areas."""

    picture: PlacedPicture
    area: str | None
    trace: Trace


@dataclass(frozen=True, eq=False)
class Line:
    """An open line of the pen or of a drawn thing, mm on the sheet. picture: that the pen drew it on."""

    id: str
    contour: Contour
    picture: str | None = None


@dataclass(frozen=True, eq=False)
class Art:
    """Shapes, the later ones above; the traces they are from; open lines of the pen and of drawn things.

    things: drawn things as they are edited, by id. lost: mends that fit nowhere any more.
    """

    shapes: tuple[Shape, ...]
    traces: tuple[PictureTrace, ...] = ()
    lines: tuple[Line, ...] = ()
    things: tuple[tuple[str, tuple[Contour, ...]], ...] = ()
    lost: int = 0


def working_factor(placed: PlacedPicture, picture: Picture, most: int = WORKING_PIXELS) -> int:
    """By which whole number the picture is divided before it is traced."""
    if placed.whole and most >= WORKING_PIXELS:
        most = MOST_PIXELS[placed.trace.mode]
    return factor_for(picture.width * picture.height, most)


def drawn_art(document: Document, fonts: Fonts, stage: Callable[[Hashable, Callable[[], Worked]], Worked]) -> Art:
    """What was drawn, set or brought in. Raises Refusal, naming the thing, where one cannot be drawn."""
    shapes: list[Shape] = []
    lines: list[Line] = []
    things: list[tuple[str, tuple[Contour, ...]]] = []
    for thing in document.drawn:
        found = _worked(thing, fonts, stage)
        things.append((thing.id, found.contours))
        if not thing.hidden:
            names = found.names or ("",) * len(found.outlines)
            shapes += [
                Shape(o, thing.fill, drawn=thing.id, part=i, beneath=thing.beneath, letters=text)
                for i, (o, text) in enumerate(zip(found.outlines, names, strict=True))
            ]
            lines += [Line(thing.id, line) for line in found.lines]
    # What lies beneath comes first, with a picture or without one.
    shapes.sort(key=lambda s: not s.beneath)
    return Art(tuple(shapes), lines=tuple(lines), things=tuple(things))


def _worked(thing: Drawn, fonts: Fonts, stage: Callable[[Hashable, Callable[[], Worked]], Worked]) -> Worked:
    try:
        return stage(("thing", *thing.drawing_key), lambda: worked(thing, fonts))
    except Refusal as refusal:
        raise Refusal("within", refusal.field, name=thing.name or thing.id, refusal=refusal) from None


def picture_key(placed: PlacedPicture, factor: int, quick: bool) -> tuple[Hashable, ...]:
    """All that the outlines of a picture follow from."""
    traced = placed.tracing and (placed.trace.to_core(), placed.areas)
    return ("picture art", placed.id, placed.look, placed.place, factor, quick, traced, placed.pen, placed.mends)


def picture_art(
    placed: PlacedPicture,
    picture: Picture,
    factor: int,
    trace_stage: Callable[[Hashable, Callable[[], Trace]], Trace],
    pen_stage: Callable[[Hashable, Callable[[], Contour]], Contour],
    outline_stage: Callable[[Hashable, Callable[[], Outline]], Outline],
    quick: bool = False,
) -> Art:
    """Everything traced of a picture and drawn on it by the pen.

    The stages remember what was worked out before. quick: good enough to follow the hand.
    Raises Refusal, naming the area, where a setting leaves nothing.
    """
    look, place = placed.look, placed.place

    def traced(settings: TraceSettings, corners: tuple[Point, ...] | None) -> Trace:
        fence = None if corners is None else tuple(place.in_picture(corner) for corner in corners)
        core = replace(settings.to_core(fence), quick=quick)
        return trace_stage(("trace", look, factor, core), lambda: trace(picture, core, factor))

    traces: list[tuple[str | None, Trace]] = []
    for area in placed.areas if placed.tracing else ():
        try:
            traces.append((area.id, traced(area.trace, area.corners)))
        except Refusal as refusal:
            raise Refusal("within", refusal.field, name=area.name, refusal=refusal) from None
    if placed.tracing and not placed.areas:
        traces.append((None, traced(placed.trace, None)))

    def laid(seen: Outline, fill: str | None = None, area: str | None = None, pen: str | None = None) -> Shape:
        outline = outline_stage(("laid", seen, place), lambda: seen.mapped(place.matrix))
        return Shape(outline, fill, placed.id, area, place.mm_per_px, pen, seen=seen)

    shapes = [
        laid(outline, found.fills[i] if found.fills else None, area)
        for area, found in traces
        for i, outline in enumerate(found.outlines)
    ]
    lines = []
    for line in placed.pen:
        contour = _pen_contour(line, look, place, picture, pen_stage)
        if line.closed and Outline(contour).flattened(ROUGH).area > 0:
            shapes.append(laid(Outline(contour), pen=line.id))
        else:
            lines.append(Line(line.id, contour.mapped(place.matrix), placed.id))
    mended_shapes, lost = with_mends(shapes, placed.mends, place)
    return Art(
        mended_shapes, tuple(PictureTrace(placed, area, found) for area, found in traces), tuple(lines), lost=lost
    )


def _pen_contour(
    line: PenLine,
    look: str,
    place: Placement,
    picture: Picture,
    stage: Callable[[Hashable, Callable[[], Contour]], Contour],
) -> Contour:
    start = place.in_picture(line.start)
    stretches = [Stretch(s.kind, place.in_picture(s.to)) for s in line.stretches]
    reach = ASIDE * max(picture.width, picture.height)
    if any(not -reach <= v <= 2 * reach for point in (start, *(s.to for s in stretches)) for v in point):
        raise Refusal("pen.outside", "line")
    key = ("pen", look, start, tuple(stretches), line.closed)
    return stage(key, lambda: pen_contour(picture, start, stretches, line.closed))


def with_mends(shapes: Sequence[Shape], mends: Sequence[Mend], place: Placement) -> tuple[tuple[Shape, ...], int]:
    """Traced shapes with their manual changes; and how many changes fit nowhere."""
    if not mends:
        return tuple(shapes), 0
    result = list(shapes)
    traced = [i for i, s in enumerate(result) if s.pen is None]
    rough = [result[i].outline.flattened(ROUGH * place.mm_per_px) for i in traced]
    known = [Footprint(m.mark.anchor, m.mark.box) for m in mends]
    lost = 0
    for mend, at in zip(mends, recognise(known, rough), strict=True):
        new = None if at is None else mended(result[traced[at]].outline, mend, place.mm_per_px)
        if at is None or new is None:
            lost += 1
        else:
            result[traced[at]] = replace(result[traced[at]], outline=new, changed=True)
    return tuple(result), lost


def together(pictures: Sequence[Art], drawn: Art) -> Art:
    """All outlines of a piece: what was drawn lies on top of all pictures, or beneath where it says so."""
    under = tuple(s for s in drawn.shapes if s.beneath)
    over = tuple(s for s in drawn.shapes if not s.beneath)
    return Art(
        (*under, *(s for art in pictures for s in art.shapes), *over),
        tuple(t for art in pictures for t in art.traces),
        (*(line for art in pictures for line in art.lines), *drawn.lines),
        drawn.things,
        sum(art.lost for art in pictures),
    )
