"""What lies on the sheet and on its pictures, moved."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Matrix as AffineMap
from drelo.core.outline.path_data import read_path, write_path
from drelo.core.picture.care import placed
from drelo.core.piece.document import Document, RegionChoice, Size
from drelo.core.piece.drawn import Drawn, DrawnLine, DrawnPath, Point, Symmetry, Tied, TieNumbers
from drelo.core.piece.pictures import (
    LARGEST_PIXEL,
    LEAST_PIXEL,
    CareStep,
    CropStep,
    FlattenStep,
    LevelStep,
    Mark,
    Mend,
    PenLine,
    PictureArea,
    PlacedPicture,
    Placement,
    RubStep,
    Source,
    marked,
)

Matrix = NDArray[np.float64]
FAR = 1e6
# What moves less than this, mm on the sheet or a share, has not moved.
STILL = 1e-9


def sheet_moved(document: Document, by: AffineMap, size: Size | None) -> Document:
    """The document with all art under a map that moves, turns and scales evenly; `size` was typed.

    A base that has a place of its own keeps it.
    """
    return document.model_copy(
        update={
            "pictures": tuple(picture_moved(p, _along(p.place, by)) for p in document.pictures),
            "drawn": tuple(moved(t, by) for t in document.drawn),
            "regions": tuple(r.model_copy(update={"mark": _mark(r.mark, _full(by))}) for r in document.regions),
            "symmetry": document.symmetry and moved_symmetry(document.symmetry, by),
            "size": size,
        }
    )


def placed_otherwise(document: Document, picture: PlacedPicture, place: Placement) -> Document:
    """The document with a picture elsewhere on the sheet, or larger or smaller, and all that lies on it."""
    return _with_picture(document, picture_moved(picture, place), _between(picture.place, place), picture.id)


def cared_for(document: Document, picture: PlacedPicture, care: tuple[CareStep, ...]) -> Document:
    """The document with other care for a picture: what is left of it stays where it lies, and what lies on it too."""
    after = picture.model_copy(update={"care": care})
    matrix = _frame(after)[0] @ np.linalg.inv(_frame(picture)[0])
    place = _placed_after(picture, care)
    on_sheet = _full(place.matrix) @ matrix @ np.linalg.inv(_full(picture.place.matrix))
    moved_picture = _on_picture(after, on_sheet).model_copy(update={"place": place})
    return _with_picture(document, moved_picture, on_sheet, picture.id)


def _placed_after(picture: PlacedPicture, care: tuple[CareStep, ...]) -> Placement:
    """Where a picture lies with other care: the steps that differ are undone one by one, and the new ones done."""
    before = [step for step in picture.care if not step.off]
    after = [step for step in care if not step.off]
    same = 0
    while same < min(len(before), len(after)) and before[same] == after[same]:
        same += 1
    place = picture.place
    for number in range(len(before), same, -1):
        place = _over_a_step(picture, before[:number], place, back=True)
    for number in range(same + 1, len(after) + 1):
        place = _over_a_step(picture, after[:number], place, back=False)
    return place


def _over_a_step(picture: PlacedPicture, care: Sequence[CareStep], place: Placement, back: bool) -> Placement:
    """Where a picture lies after the last step of its care, or back before it: the middle that is left stays."""
    last = _frame(picture.model_copy(update={"care": tuple(care)}))
    first = _frame(picture.model_copy(update={"care": tuple(care[:-1])}))
    matrix = last[0] @ np.linalg.inv(first[0])
    middle = (last[1] / 2, last[2] / 2)
    (was,) = _points([middle], np.linalg.inv(matrix))
    growth = max(_growth(was, matrix), 1e-9)
    here, there, by = (middle, was, growth) if back else (was, middle, 1 / growth)
    scale = min(max(place.mm_per_px * by, LEAST_PIXEL), LARGEST_PIXEL)
    x, y = place.on_sheet(here)
    moved_place = place.model_copy(update={"mm_per_px": scale, "at": (0.0, 0.0)})
    dx, dy = moved_place.on_sheet(there)
    return moved_place.model_copy(update={"at": (x - dx, y - dy)})


def picture_moved(picture: PlacedPicture, place: Placement) -> PlacedPicture:
    """A picture elsewhere, and with it all that lies on it."""
    return _on_picture(picture, _between(picture.place, place)).model_copy(update={"place": place})


def mapped_place(place: Placement, by: AffineMap) -> Placement:
    """A placement under a map that moves, turns and scales evenly. Raises Refusal when it does otherwise."""
    if not keeps_shape(by):
        raise Refusal("picture.bent", "matrix")
    return _along(place, by)


def _along(place: Placement, by: AffineMap) -> Placement:
    a, b, c, d, _, _ = by
    scale = place.mm_per_px * math.sqrt(abs(a * d - b * c))
    if not LEAST_PIXEL <= scale <= LARGEST_PIXEL:
        raise Refusal("picture.bad-size", "size")
    turn = math.remainder(place.turn + math.degrees(math.atan2(b, a)), 360)
    return Placement(mm_per_px=scale, at=_to(place.at, by), turn=turn)


def _with_picture(document: Document, picture: PlacedPicture, by: Matrix, identifier: str) -> Document:
    pictures = tuple(picture if p.id == identifier else p for p in document.pictures)
    regions = document.regions
    if not _is_still(by):
        regions = tuple(_choice(r, by) if r.mark.picture == identifier else r for r in regions)
    return document.model_copy(update={"pictures": pictures, "regions": regions})


def _choice(choice: RegionChoice, by: Matrix) -> RegionChoice:
    return choice.model_copy(update={"mark": _mark(choice.mark, by)})


def _on_picture(picture: PlacedPicture, by: Matrix) -> PlacedPicture:
    """A picture whose areas, attempts, pen lines and mends go along with a map of the sheet."""
    if _is_still(by):
        return picture
    attempts = tuple(a.model_copy(update={"areas": _areas(a.areas, by)}) for a in picture.attempts)
    return picture.model_copy(
        update={
            "areas": _areas(picture.areas, by),
            "attempts": attempts,
            "pen": tuple(_pen(line, by) for line in picture.pen),
            "mends": tuple(_mend(m, by) for m in picture.mends),
        }
    )


def _between(before: Placement, after: Placement) -> Matrix:
    return _full(after.matrix) @ np.linalg.inv(_full(before.matrix))


def _full(by: AffineMap) -> Matrix:
    a, b, c, d, e, f = by
    return np.array([[a, c, e], [b, d, f], [0.0, 0.0, 1.0]])


def _is_still(by: Matrix) -> bool:
    return bool(np.abs(by - np.eye(3)).max() < STILL)


def _to(point: Point, by: AffineMap) -> Point:
    a, b, c, d, e, f = by
    return a * point[0] + c * point[1] + e, b * point[0] + d * point[1] + f


def moved(thing: Drawn, by: AffineMap) -> Drawn:
    """A drawn thing under an affine map. One that turns and scales keeps its numbers; else only a path can follow.

    Raises Refusal for lettering and shapes that would be bent: make paths of them first.
    """
    a, b, c, d, _, _ = by
    follow = thing.follow and moved_symmetry(thing.follow, by)
    if isinstance(thing, DrawnPath):
        contours = [contour.mapped(by) for contour in read_path(thing.path)]
        numbers = {"tie": thing.tie and _tie(thing.tie, by), "tied": thing.tied and _tied(thing.tied, by)}
        return thing.model_copy(update={"path": write_path(contours), "follow": follow, **numbers})
    if isinstance(thing, DrawnLine):
        stretches = tuple(s.model_copy(update={"to": _to(s.to, by)}) for s in thing.stretches)
        return thing.model_copy(update={"start": _to(thing.start, by), "stretches": stretches, "follow": follow})
    scale = math.sqrt(abs(a * d - b * c))
    turn = math.degrees(math.atan2(b, a))
    given: dict[str, object] = {
        "at": _to(thing.at, by),
        "turn": math.remainder(thing.turn + turn, 360),
        "follow": follow,
    }
    for name in ("width", "height", "inner", "radius"):
        value = getattr(thing, name, None)
        if value is not None:
            given[name] = value * scale
    return thing.model_copy(update=given)


def keeps_shape(by: AffineMap) -> bool:
    """Whether a map only moves, turns and scales evenly."""
    a, b, c, d, _, _ = by
    size = max(math.hypot(a, b), 1e-12)
    return abs(a - d) < 1e-9 * size and abs(b + c) < 1e-9 * size


def _tie(tie: TieNumbers, by: AffineMap) -> TieNumbers | None:
    """A tie that is bent is a tie no more."""
    if not keeps_shape(by):
        return None
    a, b, c, d, _, _ = by
    width = tie.width * math.sqrt(abs(a * d - b * c))
    return TieNumbers(start=_to(tie.start, by), end=_to(tie.end, by), width=width)


def _tied(tied: Tied, by: AffineMap) -> Tied | None:
    ties = [_tie(tie, by) for tie in tied.ties]
    try:
        parts = write_path([contour.mapped(by) for contour in read_path(tied.parts)])
    except Refusal:
        return None
    kept = tuple(tie for tie in ties if tie is not None)
    return Tied(parts=parts, ties=kept) if len(kept) == len(ties) else None


def moved_symmetry(symmetry: Symmetry, by: AffineMap) -> Symmetry:
    """How something is repeated, under an affine map."""
    a, b, c, d, _, _ = by
    angle = math.radians(symmetry.angle)
    dx, dy = math.cos(angle), math.sin(angle)
    turned = math.degrees(math.atan2(b * dx + d * dy, a * dx + c * dy))
    return symmetry.model_copy(update={"at": _to(symmetry.at, by), "angle": turned})


def _mend(mend: Mend, matrix: Matrix) -> Mend:
    by = _affine(matrix, mend.mark.anchor)
    was, now = (write_path([c.mapped(by) for c in read_path(text)]) for text in (mend.was, mend.now))
    return mend.model_copy(update={"mark": _mark(mend.mark, matrix), "was": was, "now": now})


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
        old = _frame(source.model_copy(update={"care": before[:later]}))[0]
        new = _frame(source.model_copy(update={"care": tuple(care[:later])}))[0]
        care[later] = _step(care[later], new @ np.linalg.inv(old))
    return tuple(care)


def without(source: Source, at: int) -> tuple[CareStep, ...]:
    """The care without one of its steps."""
    care = switched(source, at, True)
    return care[:at] + care[at + 1 :]


def _frame(source: Source) -> tuple[Matrix, int, int]:
    return placed(source.width, source.height, source.steps)


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
    box = _box_of(_points(_corners(*mark.box), matrix))
    return marked(_points([mark.anchor], matrix)[0], box, mark.picture)


def _areas(areas: tuple[PictureArea, ...], matrix: Matrix) -> tuple[PictureArea, ...]:
    return tuple(a.model_copy(update={"corners": tuple(_points(a.corners, matrix))}) for a in areas)


def _pen(line: PenLine, matrix: Matrix) -> PenLine:
    start, *ends = _points([line.start, *(s.to for s in line.stretches)], matrix)
    stretches = tuple(s.model_copy(update={"to": to}) for s, to in zip(line.stretches, ends, strict=True))
    return line.model_copy(update={"start": start, "stretches": stretches})


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
