"""Shapes, and their pixels without antialiasing."""

import numpy as np

from drelo.core.picture.decode import Picture
from drelo.core.trace.fit.curves import Curves
from drelo.core.trace.hard.flats import Flats
from drelo.core.trace.seen.coverage import coverage


def box(x: float, y: float, width: float, height: float, angle: float) -> np.ndarray:
    """Corners of a leaning box, ink on the left as seen on the screen."""
    corners = np.array([[-1, -1], [-1, 1], [1, 1], [1, -1]]) * [width / 2, height / 2]
    c, s = np.cos(angle), np.sin(angle)
    return corners @ np.array([[c, s], [-s, c]]) + [x, y]


def bits_of(corners: np.ndarray, size: tuple[int, int] = (60, 80)) -> np.ndarray:
    """Pixels of a picture of size (height, width) of which more than half lies inside a ring."""
    return coverage(corners, np.roll(corners, -1, 0), size[1], size[0]) > 0.5


def flats_of(corners: np.ndarray, size: tuple[int, int] = (60, 80)) -> Flats:
    """Those pixels as flats of one line."""
    return Flats.of_ink(bits_of(corners, size), 1)


def curves_of(corners: np.ndarray) -> Curves:
    """A closed polygon of lines."""
    count = len(corners)
    side = np.roll(corners, -1, 0) - corners
    angle = np.arctan2(side[:, 1], side[:, 0])
    third = np.linalg.norm(side, axis=1) / 3
    flags = np.ones(count, bool)
    return Curves(
        corners, angle, np.roll(angle, 1), np.stack([third, third], 1), flags, flags, np.zeros(count, int), ~flags
    )


def picture(ink: np.ndarray) -> Picture:
    return Picture(np.repeat(np.where(ink, 0, 255).astype(np.uint8)[..., None], 3, axis=2), None, None, "image/png")
