"""All outlines of a piece: what was traced, here or there, and what the pen drew."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline
from drelo.core.picture.decode import Picture
from drelo.core.picture.reduce import factor_for
from drelo.core.piece.document import Document, Drawn, Mend, PenLine, Point, TraceSettings
from drelo.core.piece.drawing import Fonts, Worked, worked
from drelo.core.piece.mending import mended
from drelo.core.region.identity import Footprint, recognise
from drelo.core.trace.modes import trace
from drelo.core.trace.pen import Stretch, drawn
from drelo.core.trace.trace import Trace

# Pictures with more pixels are worked on reduced, until the maker asks for all of it.
WORKING_PIXELS = 12_000_000
# A closed line of the pen that encloses nothing at this chord tolerance (px) is only a line.
ROUGH = 0.5

T = TypeVar("T")
Stage = Callable[[Hashable, Callable[[], T]], T]


@dataclass(frozen=True, eq=False)
class Shape:
    """An outline, px, and where it is from. fill: #rrggbb in mode colours. area: id of the area it was traced in.

    pen: id of the pen's line that it is. drawn: id of the drawn thing, and part: which of its outlines.
    traced: the outline before it was changed by hand. beneath: it lies under what was traced.
    """

    outline: Outline
    fill: str | None = None
    area: str | None = None
    pen: str | None = None
    drawn: str | None = None
    part: int = 0
    traced: Outline | None = None
    beneath: bool = False


@dataclass(frozen=True, eq=False)
class Art:
    """Shapes, the later ones above; the traces they are from, by area; open lines of the pen and of drawn things.

    things: drawn things as they are edited, by id. lost: mends that fit nowhere any more.
    """

    shapes: tuple[Shape, ...]
    traces: tuple[tuple[str | None, Trace], ...] = ()
    lines: tuple[tuple[str, Contour], ...] = ()
    things: tuple[tuple[str, tuple[Contour, ...]], ...] = ()
    lost: int = 0

    @property
    def outlines(self) -> tuple[Outline, ...]:
        return tuple(shape.outline for shape in self.shapes)


def working_factor(document: Document, picture: Picture, most: int = WORKING_PIXELS) -> int:
    """By which whole number the picture is divided before it is traced."""
    whole = document.source is not None and document.source.whole and most >= WORKING_PIXELS
    return 1 if whole else factor_for(picture.width * picture.height, most)


def art_key(document: Document, factor: int, quick: bool) -> tuple[Hashable, ...]:
    """All that the art of a document follows from."""
    look = document.source and document.source.look
    traced = document.tracing and (document.trace.to_core(), document.areas)
    return ("art", look, factor, quick, traced, document.pen, document.drawn, document.mends)


def drawn_art(document: Document, fonts: Fonts, stage: Callable[[Hashable, Callable[[], Worked]], Worked]) -> Art:
    """What was drawn, set or brought in. Raises Refusal, naming the thing, where one cannot be drawn."""
    shapes: list[Shape] = []
    lines: list[tuple[str, Contour]] = []
    things: list[tuple[str, tuple[Contour, ...]]] = []
    for thing in document.drawn:
        found = _worked(thing, fonts, stage)
        things.append((thing.id, found.contours))
        if not thing.hidden:
            shapes += [
                Shape(o, thing.fill, drawn=thing.id, part=i, beneath=thing.beneath)
                for i, o in enumerate(found.outlines)
            ]
            lines += [(thing.id, line) for line in found.lines]
    # What lies beneath comes first, with a picture or without one.
    shapes.sort(key=lambda s: not s.beneath)
    return Art(tuple(shapes), lines=tuple(lines), things=tuple(things))


def _worked(thing: Drawn, fonts: Fonts, stage: Callable[[Hashable, Callable[[], Worked]], Worked]) -> Worked:
    try:
        return stage(("thing", *thing.drawing_key), lambda: worked(thing, fonts))
    except Refusal as refusal:
        raise Refusal(f"{thing.name or thing.id}: {refusal}", refusal.field) from None


def with_mends(shapes: Sequence[Shape], mends: Sequence[Mend]) -> tuple[tuple[Shape, ...], int]:
    """Traced shapes with their manual changes; and how many changes fit nowhere."""
    if not mends:
        return tuple(shapes), 0
    result = list(shapes)
    traced = [i for i, s in enumerate(result) if s.drawn is None and s.pen is None]
    rough = [result[i].outline.flattened(ROUGH) for i in traced]
    known = [Footprint(m.mark.anchor, m.mark.box) for m in mends]
    lost = 0
    for mend, at in zip(mends, recognise(known, rough), strict=True):
        new = None if at is None else mended(result[traced[at]].outline, mend)
        if at is None or new is None:
            lost += 1
        else:
            before = result[traced[at]]
            result[traced[at]] = replace(before, outline=new, traced=before.outline)
    return tuple(result), lost


def art_of(
    document: Document,
    picture: Picture,
    factor: int,
    trace_stage: Callable[[Hashable, Callable[[], Trace]], Trace],
    pen_stage: Callable[[Hashable, Callable[[], Contour]], Contour],
    quick: bool = False,
) -> Art:
    """Everything traced and drawn. Raises Refusal, naming the area, where a setting leaves nothing.

    trace_stage, pen_stage: remember what was worked out before. quick: good enough to follow the hand.
    """
    look = document.source and document.source.look

    def traced(settings: TraceSettings, corners: tuple[Point, ...] | None) -> Trace:
        core = replace(settings.to_core(corners), quick=quick)
        return trace_stage(("trace", look, factor, core), lambda: trace(picture, core, factor))

    def contour(line: PenLine) -> Contour:
        stretches = [Stretch(s.kind, s.to) for s in line.stretches]
        key = ("pen", look, line.start, line.stretches, line.closed)
        return pen_stage(key, lambda: drawn(picture, line.start, stretches, line.closed))

    traces: list[tuple[str | None, Trace]] = []
    for area in document.areas if document.tracing else ():
        try:
            traces.append((area.id, traced(area.trace, area.corners)))
        except Refusal as refusal:
            raise Refusal(f"{area.name}: {refusal}", refusal.field) from None
    if document.tracing and not document.areas:
        traces.append((None, traced(document.trace, None)))
    shapes = [
        Shape(outline, found.fills[i] if found.fills else None, area)
        for area, found in traces
        for i, outline in enumerate(found.outlines)
    ]
    lines = []
    for line in document.pen:
        found_line = contour(line)
        if line.closed and Outline(found_line).flattened(ROUGH).area > 0:
            shapes.append(Shape(Outline(found_line), pen=line.id))
        else:
            lines.append((line.id, found_line))
    mended_shapes, lost = with_mends(shapes, document.mends)
    return Art(mended_shapes, tuple(traces), tuple(lines), lost=lost)


def together(traced: Art, drawn: Art) -> Art:
    """All outlines of a piece: what was drawn lies on top, or beneath where it says so."""
    under = tuple(s for s in drawn.shapes if s.beneath)
    over = tuple(s for s in drawn.shapes if not s.beneath)
    return Art(
        (*under, *traced.shapes, *over),
        traced.traces,
        (*traced.lines, *drawn.lines),
        drawn.things,
        traced.lost,
    )
