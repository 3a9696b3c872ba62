"""Only a part of a picture: a box, or a free area."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.picture.field import InkField
from drelo.core.trace.seen.coverage import coverage
from drelo.core.trace.settings import Area as Area
from drelo.core.trace.settings import Box as Box
from drelo.core.trace.settings import Fence as Fence

MIN_SIDE = 4
MAX_CORNERS = 2000
# Colours of a border that lie in one step (of 255) count as one.
RIM_STEP = 16


@dataclass(frozen=True, eq=False)
class Cut:
    """The part of a picture that is traced.

    left, top: where it lies in the picture, whole px.
    cover: how much of every pixel lies in the area, shape (height, width), 0..1; None where all of it does.
    """

    left: int
    top: int
    picture: Picture
    cover: NDArray[np.float32] | None = None

    @property
    def offset(self) -> tuple[float, float]:
        return float(self.left), float(self.top)

    def fenced(self, field: InkField) -> InkField:
        """The ink field with paper outside the area."""
        if self.cover is None:
            return field
        bits = None if field.bits is None else field.bits & (self.cover > 0.5)
        return replace(field, values=np.maximum(field.values, 0) * self.cover, bits=bits)

    def painted(self) -> Picture:
        """The picture in which what is outside the area has the commonest colour of the area's border."""
        if self.cover is None:
            return self.picture
        rgb = self.picture.rgb
        inside = (self.cover > 0.5).astype(np.uint8)
        rim = (inside > 0) & (cv2.erode(np.pad(inside, 1), np.ones((5, 5), np.uint8))[1:-1, 1:-1] == 0)
        colours = rgb[rim] if rim.any() else rgb.reshape(-1, 3)
        _, kind, count = np.unique(colours // RIM_STEP, axis=0, return_inverse=True, return_counts=True)
        paper = colours[kind.ravel() == count.argmax()].mean(axis=0)
        share = self.cover[..., None]
        alpha = self.picture.alpha
        return replace(
            self.picture,
            rgb=np.round(rgb * share + paper * (1 - share)).astype(np.uint8),
            alpha=None if alpha is None else np.round(alpha * self.cover).astype(np.uint8),
        )


def check_area(area: Area | None) -> None:
    """Raises Refusal when the area is empty."""
    if isinstance(area, Fence):
        if not 3 <= len(area.corners) <= MAX_CORNERS:
            raise Refusal("area.corners", "area", most=MAX_CORNERS)
        area = area.box
    if area is not None and not (area[2] > 0 and area[3] > 0):
        raise Refusal("area.no-size", "area")


def cut(picture: Picture, area: Area | None) -> Cut:
    """The picture inside an area. Raises Refusal when it lies outside the picture or is too small."""
    if area is None:
        return Cut(0, 0, picture)
    x, y, w, h = area.box if isinstance(area, Fence) else area
    left, top = max(0, round(x)), max(0, round(y))
    right, bottom = min(picture.width, round(x + w)), min(picture.height, round(y + h))
    if right - left < MIN_SIDE or bottom - top < MIN_SIDE:
        raise Refusal("area.outside", "area")
    alpha = None if picture.alpha is None else picture.alpha[top:bottom, left:right]
    part = Picture(picture.rgb[top:bottom, left:right], alpha, picture.mm_per_px, picture.media_type, picture.coded)
    return Cut(left, top, part, _cover(area, left, top, part) if isinstance(area, Fence) else None)


def _cover(fence: Fence, left: int, top: int, part: Picture) -> NDArray[np.float32]:
    corners = np.array(fence.corners, np.float64) - (left, top)
    after = np.roll(corners, -1, axis=0)
    signed = coverage(corners, after, part.width, part.height)
    return np.clip(np.abs(signed), 0, 1)
