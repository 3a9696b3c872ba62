"""All outlines of a piece: what was traced, here or there, and what the pen drew."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from typing import TypeVar

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline
from drelo.core.picture.decode import Picture
from drelo.core.piece.document import Document, PenLine, Point, TraceSettings
from drelo.core.trace.modes import trace
from drelo.core.trace.pen import Stretch, drawn
from drelo.core.trace.reduce import factor_for
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

    pen: id of the pen's line that it is.
    """

    outline: Outline
    fill: str | None = None
    area: str | None = None
    pen: str | None = None


@dataclass(frozen=True, eq=False)
class Art:
    """Shapes, the later ones above; the traces they are from, by area; the pen's open lines, by id."""

    shapes: tuple[Shape, ...]
    traces: tuple[tuple[str | None, Trace], ...]
    lines: tuple[tuple[str, Contour], ...]

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
    return ("art", look, factor, quick, document.tracing and (document.trace.to_core(), document.areas), document.pen)


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
    return Art(tuple(shapes), tuple(traces), tuple(lines))
