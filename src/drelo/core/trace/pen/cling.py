"""A line that clings to the strongest edge of a picture from one point to another."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage.graph import MCP_Geometric

from drelo.core.picture.decode import Picture

Array = NDArray[np.float64]
Point = tuple[float, float]

# A point is taken to the strongest edge within this many px of it.
SNAP = 5
# What the line may use beside the straight way: this share of its length, and px.
ASIDE, LEAST_ASIDE = 0.4, 24
# Pixels of a window that is searched whole; larger ones are searched at a part of their resolution.
SEARCHED = 120_000
# Blur (px) under which edges are looked at.
CALM = 1.0
# Edges this strong against the strongest of the window cost next to nothing; the cost of a px where there is none.
STRONG, PLAIN_COST, EDGE_COST = 0.9, 1.0, 0.02
# The edge is looked for this far (px) to either side of the way found, in steps of this.
ACROSS, STEP = 2.0, 0.25
# The line is averaged along itself over this many px.
ALONG = 1.6


@dataclass(frozen=True, eq=False)
class _Window:
    """Edge strength in a part of a picture; left, top: where it lies, px."""

    strength: Array
    left: int
    top: int

    def at(self, points: Array) -> Array:
        """Strength at points (px of the picture), shape (n,)."""
        where = points - (self.left + 0.5, self.top + 0.5)
        from scipy.ndimage import map_coordinates

        return np.asarray(map_coordinates(self.strength, [where[..., 1], where[..., 0]], order=1, mode="nearest"))


def edge_near(picture: Picture, point: Point, reach: float = SNAP) -> Point:
    """The strongest edge within `reach` px of a point, px."""
    window = _window(picture, (point, point), math.ceil(reach) + 3)
    h, w = window.strength.shape
    y, x = np.mgrid[:h, :w]
    away = np.hypot(x + window.left + 0.5 - point[0], y + window.top + 0.5 - point[1])
    worth = np.where(away <= reach, window.strength * (1 - 0.5 * away / reach), -1.0)
    row, column = np.unravel_index(int(worth.argmax()), worth.shape)
    if worth[row, column] <= 0:
        return point
    return float(column + window.left + 0.5), float(row + window.top + 0.5)


def cling(picture: Picture, start: Point, end: Point) -> Array:
    """Points along the strongest edge from start to end, about a px apart, shape (n, 2), px; the two ends stay.

    The cheapest way over pixels that cost less the stronger their edge is, then moved onto the edge between pixels.
    Source: E. Mortensen and W. Barrett, "Interactive segmentation with intelligent scissors", 1998.
    """
    length = math.hypot(end[0] - start[0], end[1] - start[1])
    if length < 2:
        return np.array([start, end], np.float64)
    window = _window(picture, (start, end), max(LEAST_ASIDE, round(ASIDE * length)))
    way = _cheapest(window, np.array([start, end]))
    return _onto_edge(window, way, np.array(start), np.array(end))


def _window(picture: Picture, points: tuple[Point, Point], aside: int) -> _Window:
    (x0, y0), (x1, y1) = points
    left = int(np.clip(math.floor(min(x0, x1)) - aside, 0, picture.width - 1))
    top = int(np.clip(math.floor(min(y0, y1)) - aside, 0, picture.height - 1))
    right = int(np.clip(math.ceil(max(x0, x1)) + aside, left + 1, picture.width))
    bottom = int(np.clip(math.ceil(max(y0, y1)) + aside, top + 1, picture.height))
    box = np.s_[top:bottom, left:right]
    channels = [picture.rgb[box].astype(np.float32)]
    if picture.alpha is not None:
        channels.append(picture.alpha[box].astype(np.float32)[..., None])
    calm = cv2.GaussianBlur(np.concatenate(channels, axis=2), (0, 0), CALM, borderType=cv2.BORDER_REPLICATE)
    calm = np.atleast_3d(calm)
    slopes = [cv2.Scharr(calm[..., k], cv2.CV_32F, 1, 0) ** 2 for k in range(calm.shape[2])]
    slopes += [cv2.Scharr(calm[..., k], cv2.CV_32F, 0, 1) ** 2 for k in range(calm.shape[2])]
    return _Window(np.sqrt(np.sum(slopes, axis=0)).astype(np.float64), left, top)


def _cheapest(window: _Window, ends: Array) -> Array:
    strength = window.strength
    shrink = max(1, math.ceil(math.sqrt(strength.size / SEARCHED)))
    if shrink > 1:
        # The strongest edge of every block stands for it.
        rows, columns = (-(-n // shrink) for n in strength.shape)
        filled = np.pad(strength, ((0, rows * shrink - strength.shape[0]), (0, columns * shrink - strength.shape[1])))
        strength = filled.reshape(rows, shrink, columns, shrink).max(axis=(1, 3))
    strongest = max(float(np.quantile(strength, 0.995)), 1e-9)
    faint = 1 - np.minimum(strength / (STRONG * strongest), 1)
    cost = EDGE_COST + PLAIN_COST * faint**2
    at = np.floor((ends - (window.left, window.top)) / shrink).astype(int)
    at = np.clip(at, 0, np.array(strength.shape)[::-1] - 1)
    (x0, y0), (x1, y1) = at.tolist()
    search = MCP_Geometric(cost, fully_connected=True)
    search.find_costs([(y0, x0)], [(y1, x1)])
    way = np.array(search.traceback((y1, x1)), np.float64)[:, ::-1]
    return np.asarray((way + 0.5) * shrink + (window.left, window.top))


def _onto_edge(window: _Window, way: Array, start: Array, end: Array) -> Array:
    line = _spaced(np.concatenate([start[None], way[1:-1], end[None]]))
    for calm in (2 * ALONG, ALONG):
        line = _calmed(line, calm)
        along = np.gradient(line, axis=0)
        along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
        normal = np.stack([along[:, 1], -along[:, 0]], axis=1)
        offsets = np.arange(-ACROSS, ACROSS + STEP / 2, STEP)
        seen = window.at(line[:, None] + offsets[:, None] * normal[:, None])
        # What lies nearer is believed more.
        seen = seen * (1 - 0.1 * np.abs(offsets))
        best = np.clip(seen.argmax(axis=1), 1, len(offsets) - 2)
        rows = np.arange(len(line))
        before, here, after = seen[rows, best - 1], seen[rows, best], seen[rows, best + 1]
        bend = np.minimum(before - 2 * here + after, -1e-9)
        shift = offsets[best] + STEP * np.clip(0.5 * (before - after) / bend, -0.5, 0.5)
        # Where nothing stands out the line stays where it is.
        clear = here > 1.2 * seen.mean(axis=1)
        moved = line + np.where(clear, shift, 0.0)[:, None] * normal
        moved[0], moved[-1] = start, end
        line = _spaced(moved)
    settled = _calmed(line, ALONG)
    settled[0], settled[-1] = start, end
    return settled


def _spaced(points: Array) -> Array:
    """The polyline with points about one px apart."""
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    fresh = np.linspace(0, along[-1], max(3, math.ceil(along[-1]) + 1))
    return np.stack([np.interp(fresh, along, points[:, 0]), np.interp(fresh, along, points[:, 1])], axis=1)


def _calmed(points: Array, sigma: float) -> Array:
    """Averaged along itself; the ends stay, since beyond them the line goes on point-mirrored."""
    from scipy.ndimage import gaussian_filter1d

    reach = min(len(points) - 1, math.ceil(3 * sigma))
    before, after = 2 * points[0] - points[reach:0:-1], 2 * points[-1] - points[-2 : -reach - 2 : -1]
    calm = gaussian_filter1d(np.concatenate([before, points, after]), sigma, axis=0)[reach : reach + len(points)]
    return np.asarray(calm)
