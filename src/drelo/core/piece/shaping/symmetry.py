"""What is mirrored or repeated round a point stays so when its outlines change."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from shapely import affinity

from drelo.core.outline.combine import combined
from drelo.core.outline.contour import Matrix, polygon
from drelo.core.outline.grow import area_of
from drelo.core.outline.outline import Outline
from drelo.core.piece.drawing import matrices
from drelo.core.piece.drawn import Symmetry

# Fitted outlines of one side may differ from those of the other by so much, mm.
ALIKE = 0.02
# A wedge of the sheet reaches beyond all that is drawn, against its extent.
BEYOND = 1.5


def repeated(
    outlines: Sequence[Outline], follows: Sequence[Symmetry | None]
) -> tuple[Sequence[Outline], Symmetry | None]:
    """The outlines of one repeat and how they are repeated, where all of them still are; else as they are, plain."""
    for follow in dict.fromkeys(f for f in follows if f is not None):
        if is_repeated(outlines, follow):
            own = one_repeat(outlines, follow)
            if own:
                return own, follow
    return outlines, None


def is_repeated(outlines: Sequence[Outline], symmetry: Symmetry) -> bool:
    """Whether outlines as a whole look the same under each of a symmetry's maps."""
    area = area_of(outlines)
    if area.is_empty:
        return False
    for a, b, c, d, e, f in matrices(symmetry):
        copy = shapely.make_valid(affinity.affine_transform(area, (a, c, b, d, e, f)))
        if shapely.symmetric_difference(area, copy).area > ALIKE * area.length:
            return False
    return True


def one_repeat(outlines: Sequence[Outline], symmetry: Symmetry) -> list[Outline]:
    """What of repeated outlines lies on one side of a mirror line, or in one wedge round a point."""
    boxes = np.array([o.outer.bounds for o in outlines])
    far = BEYOND * float(np.abs(boxes.reshape(-1, 2) - symmetry.at).max())
    if symmetry.kind == "mirror":
        start, sweep = math.radians(symmetry.angle), math.pi
    else:
        sweep = 2 * math.pi / symmetry.count
        # A wedge round the middle of the topmost outline cuts the fewest.
        low, high = boxes[0, :2], boxes[0, 2:]
        away = (low + high) / 2 - symmetry.at
        start = math.atan2(away[1], away[0]) - sweep / 2
    angles = np.linspace(start, start + sweep, max(3, math.ceil(sweep / math.radians(60)) + 1))
    rim = np.array(symmetry.at) + far * np.column_stack([np.cos(angles), np.sin(angles)])
    wedge = Outline(polygon(np.concatenate([rim, [symmetry.at]]) if sweep < math.pi else rim))
    return combined("overlap", list(outlines), [wedge])


def maps_of(symmetry: Symmetry | None) -> list[Matrix]:
    """The thing itself, and the maps that give its copies."""
    plain: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
    return [plain, *(matrices(symmetry) if symmetry else [])]


def inverse(matrix: Matrix) -> Matrix:
    a, b, c, d, e, f = matrix
    below = a * d - b * c
    return (d / below, -b / below, -c / below, a / below, (c * f - d * e) / below, (b * e - a * f) / below)


def mapped_point(matrix: Matrix, point: tuple[float, float]) -> tuple[float, float]:
    a, b, c, d, e, f = matrix
    return a * point[0] + c * point[1] + e, b * point[0] + d * point[1] + f
