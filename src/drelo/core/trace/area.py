"""Only a box of a picture."""

from __future__ import annotations

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture

Area = tuple[float, float, float, float]
"""x, y, width, height in px."""

MIN_SIDE = 4


def check_area(area: Area | None) -> None:
    """Raises Refusal when the box is empty."""
    if area is not None and not (area[2] > 0 and area[3] > 0):
        raise Refusal("The area needs a width and a height above 0.", "area")


def cut(picture: Picture, area: Area | None) -> tuple[int, int, Picture]:
    """Left and top of the box in whole px, and the picture inside it.

    Raises Refusal when the box lies outside the picture or is too small.
    """
    if area is None:
        return 0, 0, picture
    x, y, w, h = area
    left, top = max(0, round(x)), max(0, round(y))
    right, bottom = min(picture.width, round(x + w)), min(picture.height, round(y + h))
    if right - left < MIN_SIDE or bottom - top < MIN_SIDE:
        raise Refusal("The area lies outside the picture or holds fewer than 4 × 4 pixels.", "area")
    alpha = None if picture.alpha is None else picture.alpha[top:bottom, left:right]
    part = Picture(picture.rgb[top:bottom, left:right], alpha, picture.mm_per_px, picture.media_type)
    return left, top, part
