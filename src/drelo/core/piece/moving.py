"""What lies on the picture goes where the picture's care takes it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.care import placement
from drelo.core.piece.document import (
    Attempt,
    CareStep,
    CropStep,
    Document,
    FlattenStep,
    LevelStep,
    Mark,
    PenLine,
    Point,
    RubStep,
    Size,
    Source,
    TraceArea,
)

Matrix = NDArray[np.float64]
FAR = 1e6


def cared_for(document: Document, source: Source, care: tuple[CareStep, ...]) -> Document:
    """The document with other picture care: areas, the pen's lines and marks of regions stay on their places."""
    after = source.model_copy(update={"care": care})
    matrix = _frame(after) @ np.linalg.inv(_frame(source))
    return document.model_copy(
        update={
            "source": after,
            "regions": tuple(r.model_copy(update={"mark": _mark(r.mark, matrix)}) for r in document.regions),
            "areas": _areas(document.areas, matrix),
            "attempts": tuple(_attempt(a, matrix) for a in document.attempts),
            "pen": tuple(_pen(line, matrix) for line in document.pen),
            "size": _size(document.size, matrix),
        }
    )


def switched(source: Source, at: int, off: bool) -> tuple[CareStep, ...]:
    """The care with one step taken back or done again; the later steps stay where they lie on the picture."""
    care = list(source.care)
    before = source.care
    care[at] = care[at].model_copy(update={"off": off})
    for later in range(at + 1, len(care)):
        old = _frame(source.model_copy(update={"care": before[:later]}))
        new = _frame(source.model_copy(update={"care": tuple(care[:later])}))
        care[later] = _step(care[later], new @ np.linalg.inv(old))
    return tuple(care)


def without(source: Source, at: int) -> tuple[CareStep, ...]:
    """The care without one of its steps."""
    care = switched(source, at, True)
    return care[:at] + care[at + 1 :]


def _frame(source: Source) -> Matrix:
    return placement(source.width, source.height, source.steps)


def _points(points: Sequence[Point], matrix: Matrix) -> list[Point]:
    moved = np.column_stack([np.array(points, np.float64), np.ones(len(points))]) @ matrix.T
    below = np.where(np.abs(moved[:, 2:]) < 1e-9, 1e-9, moved[:, 2:])
    return [(float(x), float(y)) for x, y in np.clip(moved[:, :2] / below, -FAR, FAR)]


def _growth(point: Point, matrix: Matrix) -> float:
    """How much larger things at a point become: the square root of the map's Jacobian there."""
    below = abs(float(matrix[2] @ (*point, 1.0)))
    return float(np.sqrt(abs(np.linalg.det(matrix)) / max(below, 1e-9) ** 3))


def _box_of(points: Sequence[Point]) -> tuple[float, float, float, float]:
    low, high = np.min(points, axis=0), np.max(points, axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def _corners(x0: float, y0: float, x1: float, y1: float) -> list[Point]:
    return [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]


def _mark(mark: Mark, matrix: Matrix) -> Mark:
    return Mark(anchor=_points([mark.anchor], matrix)[0], box=_box_of(_points(_corners(*mark.box), matrix)))


def _areas(areas: tuple[TraceArea, ...], matrix: Matrix) -> tuple[TraceArea, ...]:
    return tuple(a.model_copy(update={"corners": tuple(_points(a.corners, matrix))}) for a in areas)


def _attempt(attempt: Attempt, matrix: Matrix) -> Attempt:
    return attempt.model_copy(update={"areas": _areas(attempt.areas, matrix)})


def _pen(line: PenLine, matrix: Matrix) -> PenLine:
    start, *ends = _points([line.start, *(s.to for s in line.stretches)], matrix)
    stretches = tuple(s.model_copy(update={"to": to}) for s, to in zip(line.stretches, ends, strict=True))
    return line.model_copy(update={"start": start, "stretches": stretches})


def _size(size: Size, matrix: Matrix) -> Size:
    if size.points is None:
        return size
    one, other = _points(size.points, matrix)
    return size.model_copy(update={"points": (one, other)})


def _step(step: CareStep, matrix: Matrix) -> CareStep:
    match step:
        case CropStep(box=(x, y, w, h)):
            # Its middle moves and its size grows, so that moving it back gives the same box again.
            middle = (x + w / 2, y + h / 2)
            (cx, cy), grown = _points([middle], matrix)[0], _growth(middle, matrix)
            return step.model_copy(update={"box": (cx - w * grown / 2, cy - h * grown / 2, w * grown, h * grown)})
        case LevelStep():
            start, end = _points([step.start, step.end], matrix)
            return step.model_copy(update={"start": start, "end": end})
        case FlattenStep():
            return step.model_copy(update={"corners": tuple(_points(step.corners, matrix))})
        case RubStep():
            radius = min(max(step.radius * _growth(step.points[0], matrix), 1e-3), 2000.0)
            return step.model_copy(update={"points": tuple(_points(step.points, matrix)), "radius": radius})
        case _:
            return step
