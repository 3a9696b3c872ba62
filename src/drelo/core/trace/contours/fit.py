"""From level lines to fitted contours."""

from __future__ import annotations

import itertools
from dataclasses import fields

import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.contour import Contour
from drelo.core.outline.cubics import Array, basis
from drelo.core.trace.contours.hidden_corners import are_few, squared, with_hidden_corners
from drelo.core.trace.contours.second_look import seen_again
from drelo.core.trace.contours.soft_corners import softened
from drelo.core.trace.corners.corners import find_corners
from drelo.core.trace.corners.ends import parted
from drelo.core.trace.fit.curves import Cloud, Curves, Flags, place, together
from drelo.core.trace.fit.merge import merged
from drelo.core.trace.fit.refine import Hold, as_is, joined, settle
from drelo.core.trace.fit.scene import Scene, blur_between, looked_at, observed
from drelo.core.trace.fit.segments import segment
from drelo.core.trace.fit.trust import MERGE_SHARE, Trust
from drelo.core.trace.hard.agree import agreeing
from drelo.core.trace.hard.flats import Flats
from drelo.core.trace.hard.stairs import all_ends, line_ends, stair_corners, with_stairs
from drelo.core.trace.seen.level_lines import ClosedLines
from drelo.core.trace.seen.samples import Samples, calmed, sample

# A picture with more pixels is large.
LARGE = 2_500_000
# px: where a tenth of the curves are longer, the picture is large.
LONG, LONG_IN_STAIRS = 300.0, 60.0
# Such curves come to rest in so many rounds.
ROUNDS = 5
# Scale at which corners of exact lines are looked for.
EXACT_SCALE = 0.5
# Slope over one pixel across the edge of a clean antialiased picture.
PLAIN_SLOPE = 0.78
# Corners are looked for at a scale that grows with the blur from here, px.
BLUR_FROM, BLUR_SCALE = 0.3, 0.6
# Up to such a blur (px) a picture shows whether a shallow corner is one.
CLEAR_UP_TO = 0.8
# A curve may leave the picture by so many px; else its handles are halved, so often at most.
OUT, SHORTER = 0.5, 6
# Blur is judged at so many points.
BLUR_SAMPLE = 1500


def fitted(
    lines: ClosedLines,
    scene: Scene,
    trust: Trust,
    offset: tuple[float, float] = (0.0, 0.0),
    bits: NDArray[np.bool_] | None = None,
) -> list[Contour]:
    """One fitted contour a line, in the order of the lines, moved by `offset` px.

    bits: shape (height, width), which pixels are ink, of a picture without antialiasing.
    """
    samples = sample(lines)
    if trust.along > 0:
        samples = calmed(samples, trust.along)
    scale = blur_scale(samples, scene, trust)
    corners = find_corners(samples, scale)
    if bits is not None:
        corners = with_stairs(corners, samples, stair_corners(bits))
        ends = None if scene.plain is None else all_ends(line_ends(bits, scene.plain), line_ends(~bits, scene.plain))
        corners = parted(corners, samples, ends)
    flats = None if bits is None else Flats.of_ink(bits, len(lines))
    large = _is_large(scene) and not trust.quick
    curves, cloud, _ = segment(samples, corners, scale, trust.tolerance, large)
    if large and flats is None:
        curves, cloud = seen_again(curves, cloud, len(lines), scene, scale, trust)
    # Curves that will agree with every pixel need not come to rest before, unless they are few or long.
    patient = flats is None or are_few(curves) or _is_large(scene)
    looks = patient or trust.quick
    curves = on_edge(curves, cloud, scene, trust) if looks else _near(curves, cloud, trust.tolerance)
    if not trust.quick:
        if patient:
            curves = at_rest(curves, scene, trust)
        if flats is None:
            # A blur hides what speaks for a shallow corner.
            if scale <= trust.scale + BLUR_SCALE * (CLEAR_UP_TO - BLUR_FROM) and not trust.unblurred:
                curves = softened(curves, scene)
            curves = with_hidden_corners(curves, len(lines), scene, trust, scale)
        else:
            curves = agreeing(curves, flats, len(lines), patient)
        curves = squared(curves, len(lines), scene, trust, scale, flats)
    height, width = scene.field.shape[:2]
    return contours(curves, len(lines), offset, (width, height))


def through(lines: ClosedLines, tolerance: float) -> list[Contour]:
    """Contours through exact closed lines, such as the edges of widened strokes, within about `tolerance` px."""
    samples = sample(lines)
    curves, cloud, _ = segment(samples, find_corners(samples, EXACT_SCALE), EXACT_SCALE, tolerance)
    return contours(_near(curves, cloud, tolerance), len(lines), (0.0, 0.0))


def _near(curves: Curves, cloud: Cloud, tolerance: float) -> Curves:
    """Curves brought onto a cloud, with as few nodes as do."""
    curves = joined(settle(curves, cloud, 2))
    return joined(merged(curves, cloud, MERGE_SHARE * tolerance))


def _is_large(scene: Scene) -> bool:
    height, width = scene.field.shape[:2]
    return bool(height * width > LARGE)


def contours(
    curves: Curves, count: int, offset: tuple[float, float], within: tuple[float, float] | None = None
) -> list[Contour]:
    """The curves of every line, moved by `offset` px.

    within: width and height, px, of a picture, beyond which nothing is known: they are kept in it.
    """
    p = (curves.control if within is None else _kept_in(curves.control, within)) + np.array(offset)
    bounds = np.searchsorted(curves.line, np.arange(count + 1)).tolist()
    found = []
    for a, b in itertools.pairwise(bounds):
        end = b - int(curves.void[b - 1])
        found.append(Contour(p[a:end], curves.straight[a:end], closed=end == b))
    return found


def _kept_in(control: Array, size: tuple[float, float]) -> Array:
    """Segments, control points of shape (n, 4, 2), with their ends in a box from 0, 0 to `size`, and handles so short
    that none leaves it by more than OUT px.
    """
    p = control.copy()
    p[:, [0, 3]] = np.clip(p[:, [0, 3]], 0, size)
    for _ in range(SHORTER):
        on = np.einsum("ki,nij->nkj", basis(np.linspace(0, 1, 17)), p)
        out = ((on < -OUT) | (on > np.array(size) + OUT)).any(axis=(1, 2))
        if not out.any():
            break
        p[out, 1] = (p[out, 0] + p[out, 1]) / 2
        p[out, 2] = (p[out, 3] + p[out, 2]) / 2
    return p


def opened(curves: Curves, cloud: Cloud, keep: Flags, open_: Flags, ends: Array) -> tuple[Curves, Cloud]:
    """Only the segments flagged to keep; open lines (flagged) end at `ends`, shape (lines, 2), and are not closed."""
    number = np.cumsum(keep) - 1
    probes = cloud.probes
    stays = keep[probes.segment]
    lines = np.flatnonzero(open_)
    count = len(lines)
    tail = Curves(
        ends[lines],
        np.zeros(count),
        np.zeros(count),
        np.zeros((count, 2)),
        np.ones(count, bool),
        np.ones(count, bool),
        lines,
        np.ones(count, bool),
    )
    kept = Curves(*(getattr(curves, f.name)[keep] for f in fields(curves)))
    after = together(kept, tail)
    # Where each kept segment stands among all.
    moved = np.flatnonzero(~after.void)
    segment_of = moved[number[probes.segment[stays]]]
    found = place(after, segment_of, probes.u[stays], np.searchsorted(segment_of, np.arange(len(after))))
    return after, Cloud(found, cloud.targets[stays], cloud.weight[stays])


def on_edge(curves: Curves, cloud: Cloud, scene: Scene, trust: Trust, hold: Hold = as_is) -> Curves:
    """Curves brought from a first cloud onto the picture's edge, with as few nodes as do."""
    curves = joined(settle(curves, cloud, 1 if trust.quick else 2, hold))
    cloud = observed(curves, scene)
    curves = joined(settle(curves, cloud, 2, hold))
    if trust.quick:
        return curves
    return joined(merged(curves, cloud, MERGE_SHARE * trust.tolerance, hold, _is_large(scene)))


def at_rest(curves: Curves, scene: Scene, trust: Trust, hold: Hold = as_is) -> Curves:
    """Curves as near to the picture's edge as they get."""
    # A small turn of a long curve moves it far, and stairs say little of how a curve leaves a line: it takes longer to
    # come to rest. What the picture would show at a curve hardly changes by the little that it moves meanwhile.
    long = float(np.quantile(curves.lengths, 0.9)) >= (LONG_IN_STAIRS if trust.along > 0 else LONG)
    look = looked_at(curves, scene)
    for _ in range(ROUNDS if long else 1):
        curves = joined(settle(curves, look.cloud(curves, scene), 1, hold))
    return curves


def blur_scale(samples: Samples, scene: Scene, trust: Trust) -> float:
    """The scale at which corners are looked for."""
    return trust.scale + BLUR_SCALE * max(0.0, blur(samples, scene) - BLUR_FROM)


def blur(samples: Samples, scene: Scene) -> float:
    """Standard deviation (px) of the blur across the edges of a picture, beyond that of antialiasing."""
    few = np.arange(0, len(samples.points), max(1, len(samples.points) // BLUR_SAMPLE))
    along = samples.points[samples.stepped(few, 3)] - samples.points[samples.stepped(few, -3)]
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
    normal = np.stack([along[:, 1], -along[:, 0]], axis=1) / 2
    at = samples.points[few]
    line = samples.owner[few]
    slope = np.abs(scene.read(scene.field, at + normal, line) - scene.read(scene.field, at - normal, line))
    return blur_between(float(np.median(slope)), PLAIN_SLOPE)
