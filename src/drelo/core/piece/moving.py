"""What lies on the picture goes where the picture's care takes it."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.contour import Matrix as AffineMap
from drelo.core.outline.path_data import read_path, write_path
from drelo.core.picture.care import placement
from drelo.core.piece.document import (
    Attempt,
    CareStep,
    CropStep,
    Document,
    Drawn,
    FlattenStep,
    LevelStep,
    Mark,
    Mend,
    PenLine,
    PictureArea,
    Point,
    RubStep,
    Size,
    Source,
    Symmetry,
)
from drelo.core.piece.drawn import DrawnLine, DrawnPath, TieNumbers

Matrix = NDArray[np.float64]
FAR = 1e6
# A first picture under what was drawn before is taken to be so wide, mm.
FIRST_WIDTH = 60.0


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
            "drawn": tuple(moved(t, _affine(matrix, _middle(t))) for t in document.drawn),
            "mends": tuple(_mend(m, matrix) for m in document.mends),
            "symmetry": document.symmetry and _symmetry(document.symmetry, _affine(matrix, document.symmetry.at)),
        }
    )


def pictured(document: Document, source: Source) -> Document:
    """The document with a picture; what was drawn before there was one keeps its size in mm."""
    after = document.model_copy(update={"source": source})
    if document.source is not None or not document.drawn:
        return after
    # Art units were mm so far, and are px of the picture from now on.
    scale = FIRST_WIDTH / source.width
    known = Size(side="between", mm=FIRST_WIDTH, points=((0.0, 0.0), (float(source.width), 0.0)))
    grown = (1 / scale, 0.0, 0.0, 1 / scale, 0.0, 0.0)
    symmetry = document.symmetry and _symmetry(document.symmetry, grown)
    return after.model_copy(
        update={"size": known, "drawn": tuple(moved(t, grown) for t in document.drawn), "symmetry": symmetry}
    )


def moved(thing: Drawn, by: AffineMap) -> Drawn:
    """A drawn thing under an affine map. One that turns and scales keeps its numbers; else only a path can follow.

    Raises Refusal for lettering and shapes that would be bent: make paths of them first.
    """
    a, b, c, d, _, _ = by
    follow = thing.follow and _symmetry(thing.follow, by)
    if isinstance(thing, DrawnPath):
        contours = [contour.mapped(by) for contour in read_path(thing.path)]
        tie = thing.tie and _tie(thing.tie, by)
        return thing.model_copy(update={"path": write_path(contours), "follow": follow, "tie": tie})
    if isinstance(thing, DrawnLine):
        e, f = by[4], by[5]

        def to(point: Point) -> Point:
            return (a * point[0] + c * point[1] + e, b * point[0] + d * point[1] + f)

        stretches = tuple(s.model_copy(update={"to": to(s.to)}) for s in thing.stretches)
        return thing.model_copy(update={"start": to(thing.start), "stretches": stretches, "follow": follow})
    scale = math.sqrt(abs(a * d - b * c))
    turn = math.degrees(math.atan2(b, a))
    x, y = thing.at
    at = (a * x + c * y + by[4], b * x + d * y + by[5])
    numbers: dict[str, object] = {"at": at, "turn": math.remainder(thing.turn + turn, 360), "follow": follow}
    for name in ("width", "height", "inner", "radius"):
        value = getattr(thing, name, None)
        if value is not None:
            numbers[name] = value * scale
    return thing.model_copy(update=numbers)


def keeps_shape(by: AffineMap) -> bool:
    """Whether a map only moves, turns and scales evenly."""
    a, b, c, d, _, _ = by
    size = max(math.hypot(a, b), 1e-12)
    return abs(a - d) < 1e-9 * size and abs(b + c) < 1e-9 * size


def _tie(tie: TieNumbers, by: AffineMap) -> TieNumbers | None:
    """A tie that is bent is a tie no more."""
    if not keeps_shape(by):
        return None
    a, b, c, d, e, f = by
    (x0, y0), (x1, y1) = tie.start, tie.end
    return TieNumbers(
        start=(a * x0 + c * y0 + e, b * x0 + d * y0 + f),
        end=(a * x1 + c * y1 + e, b * x1 + d * y1 + f),
        width=tie.width * math.sqrt(abs(a * d - b * c)),
    )


def _symmetry(symmetry: Symmetry, by: AffineMap) -> Symmetry:
    a, b, c, d, e, f = by
    x, y = symmetry.at
    angle = math.radians(symmetry.angle)
    dx, dy = math.cos(angle), math.sin(angle)
    turned = math.degrees(math.atan2(b * dx + d * dy, a * dx + c * dy))
    return symmetry.model_copy(update={"at": (a * x + c * y + e, b * x + d * y + f), "angle": turned})


def _mend(mend: Mend, matrix: Matrix) -> Mend:
    by = _affine(matrix, mend.mark.anchor)
    was, now = (write_path([c.mapped(by) for c in read_path(text)]) for text in (mend.was, mend.now))
    return mend.model_copy(update={"mark": _mark(mend.mark, matrix), "was": was, "now": now})


def _middle(thing: Drawn) -> Point:
    if isinstance(thing, DrawnLine):
        return thing.start
    if not isinstance(thing, DrawnPath):
        return thing.at
    boxes = np.array([c.bounds for c in read_path(thing.path)] or [(0.0, 0.0, 0.0, 0.0)])
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    return float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2


def _affine(matrix: Matrix, at: Point) -> AffineMap:
    """The affine map nearest to a projective one at a point."""
    x, y = at
    below = float(matrix[2] @ (x, y, 1.0)) or 1e-9
    px, py = float(matrix[0] @ (x, y, 1.0)) / below, float(matrix[1] @ (x, y, 1.0)) / below
    a, c = ((float(matrix[0, k]) - px * float(matrix[2, k])) / below for k in range(2))
    b, d = ((float(matrix[1, k]) - py * float(matrix[2, k])) / below for k in range(2))
    return (a, b, c, d, px - a * x - c * y, py - b * x - d * y)


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


def _areas(areas: tuple[PictureArea, ...], matrix: Matrix) -> tuple[PictureArea, ...]:
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
