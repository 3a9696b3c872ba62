"""A picture to hold curves against, and the picture that curves would make."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import NormalDist
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.cubics import Array
from drelo.core.trace.fit.curves import Cloud, Curves, Indices, Probes, edges, place, probes
from drelo.core.trace.seen.coverage import between, between_mixed, coverage, mixed

Field = NDArray[np.float32]

# px between the points at which curves are held against the picture, and how many a segment has at least.
SPACING, LEAST = 3.0, 8
# An edge is believed to lie at most this far (px) from where the curve is.
MAX_SHIFT = 0.7
# Where the edge is this much flatter than elsewhere, its place is not believed.
FLAT = 0.35
# Blur (px) below which an edge counts as that of an antialiased picture.
SHARP = 0.3
MAX_BLUR = 6.0
# Paper and ink are read this far (px) to either side of an edge.
CALIBRATE = 1.2
# Chord tolerance (px) of the picture that curves would make.
FINE = 0.03


class Scene(Protocol):
    """Reads a picture, real or made from curves, beside lines: 1 is what lies to their left, 0 what lies to the right.

    field: the real picture. level: where between the two the edge runs.
    calibrate: the two were found, so that they may be corrected by what is seen beside the edges.
    plain: shape (height, width): where the field is no more blurred than it came; None where it is so nowhere else.
    """

    @property
    def field(self) -> Field: ...
    @property
    def level(self) -> float: ...
    @property
    def calibrate(self) -> bool: ...
    @property
    def plain(self) -> NDArray[np.bool_] | None: ...
    def made(self, curves: Curves) -> Field: ...
    def read(self, field: Field, points: Array, line: Indices) -> Array: ...


@dataclass(frozen=True, eq=False)
class InkScene:
    """field: shape (height, width): 0 paper, 1 ink."""

    field: Field
    level: float
    calibrate: bool = False
    plain: NDArray[np.bool_] | None = None

    def made(self, curves: Curves) -> Field:
        height, width = self.field.shape
        outline = edges(curves, FINE)
        return coverage(outline.starts, outline.ends, width, height)

    def read(self, field: Field, points: Array, line: Indices) -> Array:
        return between(field, points)


@dataclass(frozen=True, eq=False)
class ColourScene:
    """field: shape (height, width, channels). left, right: shape (lines, channels): colours beside every line.

    frame: edges along the picture's border: starts, ends, and the colour to the left of each less that to its right.
    """

    field: Field
    left: Array
    right: Array
    frame: tuple[Array, Array, Array]
    level: float = 0.5
    calibrate: bool = False
    plain: NDArray[np.bool_] | None = None

    def made(self, curves: Curves) -> Field:
        height, width, _ = self.field.shape
        outline = edges(curves, FINE)
        starts, ends, steps = self.frame
        step = self.left[outline.line] - self.right[outline.line]
        return mixed(
            np.concatenate([outline.starts, starts]),
            np.concatenate([outline.ends, ends]),
            np.concatenate([step, steps]),
            width,
            height,
        )

    def read(self, field: Field, points: Array, line: Indices) -> Array:
        return between_mixed(field, points, self.left[line], self.right[line])


@dataclass(frozen=True, eq=False)
class Look:
    """What a picture would show at points on curves if its edges lay there.

    expected: shape (m,), its value at each point. slope: shape (m,), by how much that changes over a px to the left of
    the curve. weight: shape (m,), 0..1.
    """

    probes: Probes
    expected: Array
    slope: Array
    weight: Array

    def cloud(self, curves: Curves, scene: Scene) -> Cloud:
        """Where the picture's edges truly lie beside the curves, which may have moved a little since they were looked
        at.
        """
        found = place(curves, self.probes.segment, self.probes.u, self.probes.first)
        ahead = scene.read(scene.field, found.at, curves.line[found.segment]) - self.expected
        # More of what is on the left than the curves make pushes the edge to the right.
        shift = -np.clip(ahead / self.slope, -MAX_SHIFT, MAX_SHIFT)
        return Cloud(found, found.at + found.normal * shift[:, None], self.weight)


def observed(curves: Curves, scene: Scene) -> Cloud:
    """Where the picture's edges truly lie beside the curves."""
    return looked_at(curves, scene).cloud(curves, scene)


def looked_at(curves: Curves, scene: Scene) -> Look:
    """What the picture would show if the curves were right.

    The picture that the curves would make is made, and read at the same points as the real one: whatever reading
    between pixels does to one it does to the other, so that no bias is left.
    """
    found = probes(curves, SPACING, LEAST)
    line = curves.line[found.segment]
    made = scene.made(curves)
    near, far = found.at + found.normal / 2, found.at - found.normal / 2
    slope = scene.read(made, near, line) - scene.read(made, far, line)
    true_slope = scene.read(scene.field, near, line) - scene.read(scene.field, far, line)
    blur = blur_between(float(np.median(true_slope)), float(np.median(slope)))
    if blur > SHARP:
        blurred = np.asarray(cv2.GaussianBlur(made, (0, 0), blur, borderType=cv2.BORDER_REPLICATE), np.float32)
        made = (
            blurred
            if scene.plain is None
            else np.where(scene.plain if made.ndim == 2 else scene.plain[..., None], made, blurred)
        )
        slope = scene.read(made, near, line) - scene.read(made, far, line)
    typical = max(float(np.median(slope)), 0.02)
    expected = scene.read(made, found.at, line)
    gain, zero = _tones(found, line, expected, made, scene) if scene.calibrate else (1.0, 0.0)
    weight = np.clip(slope / typical, 0.05, 1.0)
    return Look(
        found,
        zero + gain * (expected + scene.level - 0.5),
        gain * np.maximum(slope, FLAT * typical),
        weight,
    )


def _tones(found: Probes, line: Indices, at_made: Array, made: Field, scene: Scene) -> tuple[float, float]:
    """Gain and zero that take values of what the curves make to those of the picture beside the curves."""
    out, inward = found.at + CALIBRATE * found.normal, found.at - CALIBRATE * found.normal
    m = np.concatenate([at_made, scene.read(made, out, line), scene.read(made, inward, line)])
    v = np.concatenate([scene.read(scene.field, at, line) for at in (found.at, out, inward)])
    gain = max(float(np.mean((m - m.mean()) * (v - v.mean()))) / max(float(np.var(m)), 1e-9), 0.1)
    return gain, float(v.mean()) - gain * float(m.mean())


def blur_between(true_slope: float, slope: float) -> float:
    """Standard deviation (px) of the blur that makes one slope over a pixel of the other."""
    widths = [0.5 / NormalDist().inv_cdf(0.5 + 0.5 * min(max(s, 0.02), 0.98)) for s in (true_slope, slope)]
    return float(min(np.sqrt(max(widths[0] ** 2 - widths[1] ** 2, 0.0)), MAX_BLUR))
