"""The strokes of one pen read off a picture: reduced or enlarged to where its lines are read best."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.picture.field import InkField
from drelo.core.trace.fit.curves import Flags
from drelo.core.trace.seen.coverage import between
from drelo.core.trace.strokes.paths import Path, stroke_paths
from drelo.core.trace.strokes.skeleton import skeleton

Mask = NDArray[np.bool_]

# Strokes are looked for at about this width, px.
THIN = 6.0
# Strokes thinner than this share of it are looked for in the picture made twice as large.
FINE = 0.7
MAX_STROKES = 5000
# A stroke that runs over paper (less ink than this share of the level) for so many px, and its width, is none there.
PAPER, OVER_PAPER = 0.5, 3


@dataclass(frozen=True, eq=False)
class Reading:
    """Strokes of one pen, px of the picture; the field that they were read from, and by how much it is reduced."""

    paths: list[Path]
    field: InkField
    scale: float


def read_pen(pen: Mask, ink: Mask, field: InkField, joints: int) -> Reading:
    """Strokes of what one pen drew of the ink, both of shape (height, width).

    joints: how many there are already. Raises Refusal when there are more strokes than can be worked with.
    """
    others = ink & ~pen
    if others.any():
        beside = np.asarray(cv2.dilate(others.astype(np.uint8), np.ones((3, 3), np.uint8)), bool)
        field = replace(field, values=np.where(beside & ~pen, np.float32(0), field.values))
    small, scale = _reduced(pen, field)
    bones = skeleton(small.values > small.level)
    check_count(len(bones.runs))
    paths = [part for path in stroke_paths(bones, small, 1 / scale) for part in _on_ink(path, small)]
    return Reading([p.placed(scale, joints) for p in paths], small, scale)


def _on_ink(path: Path, field: InkField) -> list[Path]:
    """A path, px of the field, or what is left of it where it would run over paper."""
    points = np.concatenate([path.points, path.points[:1]]) if path.closed else path.points
    steps = np.maximum(1, np.ceil(np.linalg.norm(np.diff(points, axis=0), axis=1))).astype(np.int64)
    places = np.concatenate([np.linspace(k, k + 1, n, endpoint=False) for k, n in enumerate(steps.tolist())])
    on = np.stack([np.interp(places, np.arange(len(points)), points[:, k]) for k in (0, 1)], axis=1)
    paper = between(field.values, on) < PAPER * field.level
    ends = np.flatnonzero(np.diff(np.concatenate([[False], paper, [False]]).astype(np.int8))).reshape(-1, 2)
    cuts = [(a, b) for a, b in ends.tolist() if b - a > max(OVER_PAPER, path.width)]
    if not cuts:
        return [path]
    result, begin = [], 0
    for a, b in [*cuts, (len(on), len(on))]:
        if a - begin >= max(2, path.width):
            first = path.ends[0] if begin == 0 and not path.closed else -1
            last = path.ends[1] if a == len(on) and not path.closed else -1
            result.append(replace(path, points=on[begin:a], closed=False, ends=(first, last)))
        begin = b
    return result


def check_count(count: int) -> None:
    """Raises Refusal when there are more strokes than can be worked with."""
    if count > MAX_STROKES:
        raise Refusal("trace.too-many-strokes", "speck", count=count, most=MAX_STROKES)


def _reduced(ink: Flags, field: InkField) -> tuple[InkField, float]:
    """The field with only the ink that counts, reduced so far that strokes are a few px wide, and by how much.

    The middle of thick strokes frays at ends and corners; thin ones are enlarged, for theirs is known to a pixel only.
    """
    values = np.where(ink, np.maximum(field.values, np.float32(field.level) + np.float32(1e-3)), field.values)
    values = np.where(ink, values, np.minimum(values, np.float32(field.level) - np.float32(1e-3)))
    radius = cv2.distanceTransform(np.pad(ink, 1).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    crest = (radius >= cv2.dilate(radius, np.ones((3, 3), np.uint8))) & (radius > 0)
    scale = 2 * float(np.median(radius[crest])) / THIN
    if scale < FINE:
        twice = cv2.resize(values, None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)
        return replace(field, values=np.asarray(twice, np.float32)), 0.5
    if scale < 1.25:
        return replace(field, values=values), 1.0
    height, wide = ink.shape
    # The scale is made one that the width takes without rest; the height is padded to it.
    across = max(8, round(wide / scale))
    scale = wide / across
    down = int(np.ceil(height / scale))
    padded = np.pad(values, ((0, int(np.ceil(down * scale)) - height), (0, 0)), constant_values=0)
    exact = cv2.warpAffine(
        cv2.GaussianBlur(padded, (0, 0), scale / 2.4),
        np.array([[scale, 0, scale / 2 - 0.5], [0, scale, scale / 2 - 0.5]]),
        (across, down),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return replace(field, values=np.asarray(exact, np.float32)), scale
