"""Rough spots: where a trace was unsure, or came out crowded, and a look is worth while."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.near import points_tree
from drelo.core.outline.clearance import Narrow
from drelo.core.outline.outline import Outline
from drelo.core.picture.decode import Picture
from drelo.core.picture.enlarged import enlarged

Array = NDArray[np.float64]
Kind = Literal["untrue", "faint", "off", "crowded", "neck", "gap"]

# px between the places that are looked at, and how many of them at most.
SPACING, MOST = 1.5, 60_000
# The picture is read this far (px) to either side of an outline.
BESIDE = 2.0
# An edge that stands out by less than this share of what is usual is faint.
FAINT = 0.4
# The edge is looked for across the outline this far (px); further off than this it is not where the outline is.
ACROSS, OFF = 2.5, 0.9
# Rough stretches are at least so many places long.
STRETCH = 4
# More nodes than this within so many px are a crowd.
CROWD, CROWD_REACH = 4, 6.0
# Necks and gaps narrower than this (px) hang on the level.
NARROW = 2.5
# Spots nearer to each other than this (px) are one.
APART = 14.0
MAX_SPOTS = 60


@dataclass(frozen=True)
class Spot:
    """A rough spot: why, where (px), how far it reaches (px), and how much it wants a look, 0..1."""

    kind: Kind
    at: tuple[float, float]
    radius: float
    weight: float


def rough_spots(
    picture: Picture, outlines: Sequence[Outline], necks: Sequence[Narrow], gaps: Sequence[Narrow]
) -> tuple[Spot, ...]:
    """What wants a look, the most first. necks, gaps: the narrowest places of the outlines, px."""
    was = enlarged(picture)
    if was is None:
        return _rough_spots(picture, outlines, necks, gaps)
    scale, (x, y) = was.scale, was.shift
    small = [o.transformed(1 / scale, -x / scale, -y / scale) for o in outlines]
    placed = [
        [Narrow(n.width / scale, ((n.at[0] - x) / scale, (n.at[1] - y) / scale)) for n in narrow]
        for narrow in (necks, gaps)
    ]
    found = _rough_spots(was.small, small, *placed)
    return tuple(replace(s, at=(s.at[0] * scale + x, s.at[1] * scale + y), radius=s.radius * scale) for s in found)


def _rough_spots(
    picture: Picture, outlines: Sequence[Outline], necks: Sequence[Narrow], gaps: Sequence[Narrow]
) -> tuple[Spot, ...]:
    found = [*_doubtful(picture, outlines), *_crowded(outlines)] if outlines else []
    for kind, places in (("neck", necks), ("gap", gaps)):
        found += [Spot(kind, n.at, max(n.width, 4.0), 1 - n.width / NARROW) for n in places if n.width < NARROW]  # type: ignore[arg-type]
    found.sort(key=lambda s: (-s.weight, s.at))
    chosen: list[Spot] = []
    for spot in found:
        if all(np.hypot(spot.at[0] - c.at[0], spot.at[1] - c.at[1]) > APART for c in chosen):
            chosen.append(spot)
        if len(chosen) == MAX_SPOTS:
            break
    return tuple(chosen)


def _doubtful(picture: Picture, outlines: Sequence[Outline]) -> list[Spot]:
    """Stretches where the picture has no clear edge, or has it elsewhere."""
    rings = [c.flattened(0.05) for o in outlines for c in o.contours]
    whole = sum(float(np.linalg.norm(np.roll(r, -1, axis=0) - r, axis=1).sum()) for r in rings)
    spacing = max(SPACING, whole / MOST)
    placed = [_places(r, spacing) for r in rings]
    points, normals = (np.concatenate([p[k] for p in placed]) for k in (0, 1))
    starts = np.concatenate([[0], np.cumsum([len(p[0]) for p in placed])])
    colour = _colours(picture)
    offsets = np.arange(-ACROSS, ACROSS + 0.1, 0.5)
    seen = _read(colour, points[:, None] + offsets[:, None] * normals[:, None])
    steps = np.linalg.norm(np.diff(seen, axis=1), axis=2)
    contrast = np.linalg.norm(
        _read(colour, points + BESIDE * normals) - _read(colour, points - BESIDE * normals), axis=1
    )
    # Along the border of the picture there is no edge to see.
    height, width = picture.rgb.shape[:2]
    inside = np.all((points > ACROSS) & (points < np.array([width, height]) - ACROSS), axis=1)
    usual = max(float(np.median(contrast[inside])) if inside.any() else 1.0, 1.0)
    strongest = steps.argmax(axis=1)
    off = np.abs((offsets[strongest] + offsets[strongest + 1]) / 2)
    middle = steps[:, [len(offsets) // 2 - 1, len(offsets) // 2]].max(axis=1)
    rows = np.arange(len(points))
    is_off = inside & (off > OFF) & (steps[rows, strongest] > 1.5 * middle) & (contrast > FAINT * usual)
    is_faint = inside & (contrast < FAINT * usual)
    spots = []
    for a, b in zip(starts[:-1].tolist(), starts[1:].tolist(), strict=True):
        for kind, flags, amount in (("faint", is_faint, 1 - contrast / usual), ("off", is_off, off / ACROSS)):
            for run in _stretches(flags[a:b]):
                at = points[a:b][run]
                length = len(run) * spacing
                weight = float(amount[a:b][run].mean()) * min(1.0, 0.3 + length / 25)
                middle_at = at[len(at) // 2]
                spots.append(
                    Spot(kind, (float(middle_at[0]), float(middle_at[1])), max(4.0, length / 2), min(weight, 1.0))  # type: ignore[arg-type]
                )
    return spots


def _crowded(outlines: Sequence[Outline]) -> list[Spot]:
    nodes = np.concatenate([c.curves[:, 0] for o in outlines for c in o.contours])
    count = points_tree(nodes).count_within(nodes, CROWD_REACH)
    crowd = np.flatnonzero(count > CROWD)
    return [
        Spot("crowded", (float(nodes[i, 0]), float(nodes[i, 1])), CROWD_REACH, min(0.15 * float(count[i] - CROWD), 0.9))
        for i in crowd.tolist()
    ]


def _stretches(flags: NDArray[np.bool_]) -> list[NDArray[np.int64]]:
    """Runs of flagged places round a ring, each in order."""
    count = len(flags)
    if not flags.any():
        return []
    if flags.all():
        return [np.arange(count)]
    # Begin where none is flagged, so that no run is cut.
    first = int(np.flatnonzero(~flags)[0])
    turned = np.roll(flags, -first)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], turned, [False]]).astype(np.int8)))
    runs = zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)
    return [(np.arange(a, b) + first) % count for a, b in runs if b - a >= STRETCH]


def _places(ring: Array, spacing: float) -> tuple[Array, Array]:
    step = np.roll(ring, -1, axis=0) - ring
    size = np.linalg.norm(step, axis=1)
    along = np.concatenate([[0.0], np.cumsum(size)])
    at = np.linspace(0, along[-1], max(4, round(along[-1] / spacing)), endpoint=False)
    closed = np.concatenate([ring, ring[:1]])
    points = np.stack([np.interp(at, along, closed[:, k]) for k in (0, 1)], axis=1)
    way = np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    return points, np.stack([-way[:, 1], way[:, 0]], axis=1)


def _colours(picture: Picture) -> NDArray[np.float32]:
    rgb = picture.rgb.astype(np.float32)
    if picture.alpha is not None:
        share = picture.alpha[..., None].astype(np.float32) / 255
        rgb = np.concatenate([rgb * share, 255 * share], axis=2)
    return np.atleast_3d(np.asarray(cv2.GaussianBlur(rgb, (0, 0), 0.7, borderType=cv2.BORDER_REPLICATE), np.float32))


def _read(colour: NDArray[np.float32], points: Array) -> Array:
    """Colours at points of shape (..., 2), px, between pixels."""
    x, y = (points.reshape(-1, 2) - 0.5).T.astype(np.float32)
    # One call of remap takes at most 32767 rows.
    side = int(np.ceil(np.sqrt(len(x))))
    grid = [np.pad(v, (0, side * side - len(v))).reshape(side, side) for v in (x, y)]
    read = cv2.remap(colour, grid[0], grid[1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(
        np.atleast_3d(read).reshape(side * side, -1)[: len(x)].reshape(*points.shape[:-1], -1), np.float64
    )
