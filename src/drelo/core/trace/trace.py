"""What a trace gives."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.contour import Contour
from drelo.core.outline.drawn import Cap, Join
from drelo.core.outline.outline import Outline

BLACK = "#000000"


@dataclass(frozen=True)
class Swatch:
    """A colour that was found: #rrggbb, its share of the area, whether it is no shape, whether it is see-through.

    bands: other colours that count as this one.
    """

    colour: str
    share: float
    background: bool
    clear: bool = False
    bands: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class Line:
    """A middle line, its width in px, and the shape of its ends and corners."""

    contour: Contour
    width: float
    cap: Cap = "round"
    join: Join = "round"

    def transformed(self, scale: float, dx: float = 0.0, dy: float = 0.0) -> Line:
        """In another unit, then moved."""
        return replace(self, contour=self.contour.transformed(scale, dx, dy), width=self.width * scale)


@dataclass(frozen=True)
class Check:
    """A trace held against its picture and itself.

    mean, most, furthest: how far the edges that were seen are from the outlines: on the average, 99 % of them at most,
    and all, px. crossings: places where outlines cross or touch. again: how many outlines had to be fitted again.
    off: x, y and how far off, px, where that did not do.
    """

    mean: float
    most: float
    furthest: float
    crossings: int
    again: int
    off: tuple[tuple[float, float, float], ...] = ()

    def enlarged(self, factor: float, shift: tuple[float, float]) -> Check:
        """In px of a picture that was reduced by `factor`, then moved by `shift` px."""
        return replace(
            self,
            mean=self.mean * factor,
            most=self.most * factor,
            furthest=self.furthest * factor,
            off=tuple((x * factor + shift[0], y * factor + shift[1], d * factor) for x, y, d in self.off),
        )


@dataclass(frozen=True, eq=False)
class Trace:
    """Outlines of a picture, in px, x to the right and y down, the picture's top left corner at 0, 0.

    fills: #rrggbb of every outline; none when all are ink.
    lines: middle lines, in mode strokes; shapes: filled shapes among them, which have none.
    level: 0..1, as used; None in other modes than ink. speck: px², as used, found or given.
    dropped: how many specks were left out. filled: how many pinholes, in mode ink, where their size is `pinhole`, px².
    swatches: the colours that were found, the commonest first.
    lost: rings (n, 2) round some of what was left out. check: none while a trace only follows the hand.
    """

    outlines: tuple[Outline, ...]
    level: float | None = None
    speck: float = 0.0
    dropped: int = 0
    fills: tuple[str, ...] = ()
    swatches: tuple[Swatch, ...] = ()
    lines: tuple[Line, ...] = ()
    shapes: tuple[Outline, ...] = ()
    lost: tuple[NDArray[np.float64], ...] = ()
    filled: int = 0
    pinhole: float | None = None
    check: Check | None = None

    def enlarged(self, factor: float, shift: tuple[float, float] = (0.0, 0.0)) -> Trace:
        """The trace of a picture that was reduced by `factor`, in px of the whole one, then moved by `shift` px."""
        square = factor * factor
        return replace(
            self,
            outlines=tuple(o.transformed(factor, *shift) for o in self.outlines),
            lines=tuple(line.transformed(factor, *shift) for line in self.lines),
            shapes=tuple(o.transformed(factor, *shift) for o in self.shapes),
            lost=tuple(ring * factor + np.array(shift) for ring in self.lost),
            speck=self.speck * square,
            pinhole=None if self.pinhole is None else self.pinhole * square,
            check=self.check and self.check.enlarged(factor, shift),
        )

    @property
    def lines_and_shapes(self) -> tuple[tuple[Line, ...], tuple[Outline, ...]]:
        """What a drawing program is given: middle lines and filled shapes in mode strokes, else the outlines."""
        return self.lines, self.shapes if self.lines or self.shapes else self.outlines

    @property
    def nodes(self) -> int:
        """Nodes of the lines and shapes."""
        lines, shapes = self.lines_and_shapes
        return sum(len(n.contour) + (not n.contour.closed) for n in lines) + sum(o.nodes for o in shapes)

    def fill(self, number: int) -> str:
        """Colour of an outline."""
        return self.fills[number] if self.fills else BLACK
