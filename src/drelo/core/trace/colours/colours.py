"""Mode colours: a few flat colours whose areas share their edges exactly."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline
from drelo.core.picture.decode import Picture
from drelo.core.picture.even import evenly_lit
from drelo.core.picture.field import HARD_CALM, noise_of
from drelo.core.picture.hairlines import has_hairlines, with_coloured_hairlines
from drelo.core.picture.palette import MAX_COLOURS, MIN_COLOURS, Palette, find_palette, mixing, palette_of
from drelo.core.trace.area import cut
from drelo.core.trace.check.homeward import polyline
from drelo.core.trace.colours.arcs import OUTSIDE, Arcs, find_arcs
from drelo.core.trace.colours.bands import bands, calm_bands
from drelo.core.trace.colours.coded_colours import coded_colours
from drelo.core.trace.colours.coded_edges import colours_by_lightness, less_sure, told_by_lightness
from drelo.core.trace.colours.joints import Joints, straight_at_joints
from drelo.core.trace.colours.labels import is_hard, label, without_specks
from drelo.core.trace.colours.slivers import with_sliver_tips
from drelo.core.trace.colours.untangle import untangled
from drelo.core.trace.contours.fit import at_rest, blur_scale, contours, on_edge, opened
from drelo.core.trace.contours.hidden_corners import are_few, squared
from drelo.core.trace.corners.corners import find_corners
from drelo.core.trace.corners.ends import parted
from drelo.core.trace.corners.tips import calmed_between_tips, on_the_way_there, there_and_back, with_tips
from drelo.core.trace.fit.curves import Curves, Indices
from drelo.core.trace.fit.merge import straightened
from drelo.core.trace.fit.refine import Hold, joined, settle
from drelo.core.trace.fit.scene import ColourScene, observed
from drelo.core.trace.fit.segments import segment
from drelo.core.trace.fit.trust import HARD_ALONG, HARD_SCALE, HARD_TOLERANCE, Trust, keenness
from drelo.core.trace.hard.agree import agreeing
from drelo.core.trace.hard.flats import Flats, Frame
from drelo.core.trace.hard.stairs import Stairs, stairs_of, with_stairs
from drelo.core.trace.nesting import nested
from drelo.core.trace.ranges import check_calm, check_common, edge_length
from drelo.core.trace.seen.samples import sample
from drelo.core.trace.settings import ColourSettings as ColourSettings
from drelo.core.trace.struck import rings_round
from drelo.core.trace.trace import Check, Swatch, Trace

Array = NDArray[np.float64]

# Smallest area kept when the maker names none, px²: on a clean picture, more for each unit of noise (of 255), and at
# least this share of the picture.
CLEAN_SPECK, SPECK_PER_NOISE, SPECK_SHARE = 4.0, 1.0, 4e-6
# Distance (px) that a segment may keep from the edge, at calmness 0, 0.5 and 1.
TOLERANCES = ((0.0, 0.5, 1.0), (0.1, 0.3, 1.4))
# A photograph is taken for at least so noisy, of 255.
PHOTO_NOISE = 4.0
# A picture of at most so many pixels with lines hardly a pixel wide is looked at so many times larger.
FINE_UP_TO, FINE = 500_000, 2
# Without antialiasing curves are brought to agree with the pixels where these, times the colours, are at most so many.
AGREE_UP_TO = 40_000_000
# A segment that strays from its chord by less than this (px) at rest is a line.
STRAIGHT = 0.1
# Points along the border turn where both their coordinates change by more than this, px.
TURNS = 0.1


def check_settings(settings: ColourSettings) -> None:
    """Raises Refusal with the field's name when a setting is out of its range."""
    if settings.colours is not None and not MIN_COLOURS <= settings.colours <= MAX_COLOURS:
        raise Refusal("trace.number-of-colours", "colours", least=MIN_COLOURS, most=MAX_COLOURS)
    if settings.palette is not None and len(settings.palette) < 2:
        raise Refusal("trace.one-colour", "palette")
    check_common(settings.speck, settings.smooth, settings.keen, settings.area)


def trace_colours(picture: Picture, settings: ColourSettings) -> Trace:
    """Closed, fitted outlines of every flat colour of a picture but the background.

    Raises Refusal when there is only one colour, nothing is left, or a setting is out of range.
    """
    check_settings(settings)
    part = cut(picture, settings.area)
    painted = part.painted()
    picture = evenly_lit(painted)
    pixels, noise = mixing(picture), noise_of(picture)
    coded = picture.coded
    if picture is not painted and len(find_palette(pixels, None, noise, coded)) < (settings.colours or 0):
        # Whoever asks for more colours than there are means those of the light.
        picture = painted
        pixels, noise = mixing(picture), noise_of(picture)
    elif picture is not painted:
        # A photograph is noisy, though its coding may hide it.
        noise = max(noise, PHOTO_NOISE)
    groups, surfaces, palette = _palette(pixels, settings, noise, coded)
    mixed = palette.mixing
    if picture.alpha is None:
        pixels, mixed = np.ascontiguousarray(pixels[..., :3]), mixed[:, :3].copy()
    size = pixels.shape[0] * pixels.shape[1]
    speck = settings.speck
    if speck is None:
        speck = max(CLEAN_SPECK + SPECK_PER_NOISE * noise, SPECK_SHARE * size)
    labels, large, fine, hard = _labelled(pixels, mixed, surfaces, noise, coded, settings.quick)
    before = groups[labels]
    labels, dropped = without_specks(labels, len(mixed), speck * fine * fine, hard)
    lost = rings_round(before != groups[labels], fine, part.offset) if dropped else ()
    check_calm(edge_length(groups[labels]) // fine, size)
    background = _background(labels, palette, groups, settings.background)
    stairs = plain = thin = None
    as_kept = pixels
    if hard:
        flat = mixed.astype(np.float32)[labels]
        pixels = np.asarray(cv2.GaussianBlur(flat, (0, 0), HARD_CALM, borderType=cv2.BORDER_REPLICATE), np.float32)
        large, plain, lines_of = with_coloured_hairlines(pixels, labels, mixed)
        pixels, stairs, thin = large, stairs_of(labels, lines_of), np.any(lines_of, axis=0)
    coded = coded and picture.alpha is None
    seen, told = pixels, mixed
    if coded and not hard:
        seen, told, large = told_by_lightness(pixels), colours_by_lightness(mixed), told_by_lightness(large)
    arcs = find_arcs(labels, large, told, groups, thin).transformed(1 / fine)
    trust = _trust(settings, noise, hard)
    if not hard:
        arcs = with_sliver_tips(arcs, seen, told, coded)
        trust = less_sure(trust, arcs, mixed, noise) if coded else trust
    lines, check = _fitted(arcs, seen, plain, told, trust, part.offset, stairs, labels if hard else None)
    if coded and settings.palette is None and not settings.quick:
        true = coded_colours(as_kept, mixed, arcs, lines, part.offset)
        palette = replace(palette, rgba=np.concatenate([true, palette.rgba[:, 3:]], axis=1))
    outlines, fills = _areas(arcs, lines, groups, background, palette.hexes)
    if not outlines:
        raise Refusal("trace.only-background", "colours")
    share = np.bincount(groups[labels.ravel()], minlength=len(palette)) / labels.size
    found = sorted(set(groups.tolist()), key=lambda k: -share[k])
    swatches = tuple(_swatch(palette, groups, k, float(share[k]), k == background) for k in found)
    return Trace(outlines, fills=fills, swatches=swatches, speck=speck, dropped=dropped, lost=lost, check=check)


def _labelled(
    pixels: NDArray[np.float32], mixed: Array, surfaces: Indices, noise: float, coded: bool, quick: bool
) -> tuple[NDArray[np.int16], NDArray[np.float32], int, bool]:
    """The colour of every pixel; the pixels; how many times larger both are than the picture; and whether it has no
    antialiasing.

    Where a line is hardly a pixel wide single pixels do not hang together, and a larger picture is looked at.
    """
    labels = calm_bands(label(pixels, mixed, noise), pixels, mixed, surfaces)
    check_calm(edge_length(labels) // 2, labels.size)
    hard = is_hard(labels, pixels, mixed, noise, coded)
    if hard or quick or labels.size > FINE_UP_TO or not has_hairlines(labels, len(mixed)):
        return labels, pixels, 1, hard
    large = np.asarray(cv2.resize(pixels, None, fx=FINE, fy=FINE, interpolation=cv2.INTER_CUBIC), np.float32)
    return calm_bands(label(large, mixed, noise), large, mixed, surfaces), large, FINE, False


def _swatch(palette: Palette, groups: Indices, k: int, share: float, background: bool) -> Swatch:
    others = tuple(palette.hexes[j] for j in np.flatnonzero(groups == k).tolist() if j != k)
    return Swatch(palette.hexes[k], share, background, bool(palette.rgba[k, 3] == 0), others)


def _palette(
    pixels: NDArray[np.float32], settings: ColourSettings, noise: float, coded: bool
) -> tuple[Indices, Indices, Palette]:
    """For every colour of the palette the one that it counts as, the one whose surface it is a band of, and the
    palette.
    """
    if settings.palette is None:
        palette = find_palette(pixels, settings.colours, noise, coded)
        groups = bands(pixels, palette) if settings.colours is None else np.arange(len(palette))
        return groups, groups, palette
    members = [(g, colour) for g, group in enumerate(settings.palette) for colour in group]
    palette = palette_of([colour for _, colour in members], bool((pixels[..., 3] < 128).any()))
    first: dict[int, int] = {}
    for k, (g, _) in enumerate(members):
        first.setdefault(g, k)
    named = [first[g] for g, _ in members]
    groups = np.array([*named, *range(len(named), len(palette))])
    surfaces = bands(pixels, palette)
    # What the maker keeps apart stays apart.
    return groups, np.where(groups[surfaces] == groups, surfaces, np.arange(len(palette))), palette


def _background(labels: NDArray[np.int16], palette: Palette, groups: NDArray[np.int64], named: str | None) -> int:
    """Number of the colour that is no shape; -1 when every one is."""
    clear = np.flatnonzero(palette.rgba[:, 3] == 0)
    if named == "none":
        return int(clear[0]) if len(clear) else -1
    if named is not None:
        wanted = palette_of([named], False).rgba[0]
        return int(groups[np.argmin(((palette.rgba - wanted) ** 2).sum(axis=1))])
    if len(clear):
        return int(clear[0])
    border = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    return int(np.bincount(groups[border]).argmax())


def _trust(settings: ColourSettings, noise: float, hard: bool) -> Trust:
    tolerance = float(np.interp(settings.smooth, *TOLERANCES)) * (HARD_TOLERANCE if hard else 1 + min(noise / 20, 0.6))
    scale = 0.75 + HARD_SCALE if hard else 0.6 + min(noise / 20, 1.0)
    return Trust(scale * keenness(settings.keen), tolerance, HARD_ALONG if hard else 0.0, settings.quick)


def _fitted(
    arcs: Arcs,
    pixels: NDArray[np.float32],
    plain: NDArray[np.bool_] | None,
    palette: Array,
    trust: Trust,
    offset: tuple[float, float],
    stairs: Stairs | None,
    hard: NDArray[np.int16] | None,
) -> tuple[list[Contour], Check | None]:
    """A contour for every arc: closed ones, and open ones from junction to junction; and what their check found.

    hard: shape (height, width), the labels of a picture without antialiasing.
    """
    height, width = pixels.shape[:2]
    inner = np.flatnonzero(~arcs.border)
    border = np.flatnonzero(arcs.border)
    junctions = arcs.junctions
    fitted: dict[int, Contour] = {}
    if len(inner):
        colour = np.concatenate([palette, np.zeros((1, palette.shape[1]))])
        frame = [_corners_of(arcs, a, junctions, width, height) for a in border.tolist()]
        starts = np.concatenate([f[:-1] for f in frame])
        ends = np.concatenate([f[1:] for f in frame])
        owner = np.repeat(border, [len(f) - 1 for f in frame])
        steps = colour[arcs.left[owner]] - colour[arcs.right[owner]]
        frame_edges = (starts, ends, steps)
        scene = ColourScene(pixels, colour[arcs.left[inner]], colour[arcs.right[inner]], frame_edges, plain=plain)
        joints = Joints(arcs, inner, width, height)
        flats = None
        if hard is not None:
            border_edges = Frame(starts, ends, arcs.left[owner], arcs.right[owner])
            flats = Flats(hard, arcs.left[inner], arcs.right[inner], border_edges)
        curves = _curves(arcs, inner, scene, trust, joints.hold, stairs, flats)
        fitted = dict(zip(inner.tolist(), contours(curves, len(inner), offset), strict=True))
        junctions = joints.places(curves)
    for a in border.tolist():
        fitted[a] = polyline(_corners_of(arcs, a, junctions, width, height) + np.array(offset), bool(arcs.closed[a]))
    found = [fitted[a] for a in range(len(arcs))]
    return (found, None) if trust.quick else untangled(found, arcs, offset, trust.allowed)


def _curves(
    arcs: Arcs,
    inner: Indices,
    scene: ColourScene,
    trust: Trust,
    hold: Hold,
    stairs: Stairs | None,
    flats: Flats | None,
) -> Curves:
    closed = arcs.closed[inner]
    lines = [arcs.points[arcs.starts[a] : arcs.starts[a + 1]] for a in inner.tolist()]
    for i in np.flatnonzero(~closed).tolist():
        one, other = arcs.junctions[arcs.ends[inner[i]]]
        lines[i] = np.concatenate([one[None], lines[i], other[None]])
    samples = sample(there_and_back(lines, closed))
    if trust.along > 0:
        samples = calmed_between_tips(samples, closed, trust.along)
    scale = blur_scale(samples, scene, trust)
    corners = find_corners(samples, scale, closed)
    if stairs is not None:
        among = closed[samples.owner] | on_the_way_there(samples)
        corners = parted(with_stairs(corners, samples, stairs.corners, among), samples, stairs.ends, among)
    corners = with_tips(corners, samples, closed, None if stairs is None else stairs.corners.position)
    curves, cloud, begin = segment(samples, corners, scale, trust.tolerance)
    size = np.diff(samples.starts)
    forward = closed[curves.line] | ((begin - samples.starts[curves.line]) * 2 < size[curves.line])
    curves, cloud = opened(curves, cloud, forward, ~closed, samples.points[samples.starts[:-1] + size // 2])
    curves = on_edge(curves, cloud, scene, trust, hold)
    if trust.quick:
        return curves
    curves = at_rest(curves, scene, trust, hold=hold)
    # Beside a junction a line looks bent until all that meet there have come to rest.
    curves = joined(straight_at_joints(straightened(curves, STRAIGHT)))
    curves = joined(settle(curves, observed(curves, scene), 1, hold))
    if flats is not None and flats.labels.size * flats.count > AGREE_UP_TO:
        return curves
    if flats is not None:
        curves = agreeing(curves, flats, len(inner), are_few(curves), hold)
    return squared(curves, len(inner), scene, trust, scale, flats, hold, closed)


def _corners_of(arcs: Arcs, a: int, junctions: Array, width: int, height: int) -> Array:
    """An arc along the border as the corners of a polyline; a closed one ends where it began."""
    points = arcs.points[arcs.starts[a] : arcs.starts[a + 1]]
    if arcs.closed[a]:
        points = np.concatenate([points, points[:1]])
    turn = np.flatnonzero(np.abs(np.diff(points, axis=0)).min(axis=1) > TURNS)
    middle = (points[turn] + points[turn + 1]) / 2
    size = np.array([width, height])
    corners = np.where(middle < size / 2, 0.0, size.astype(np.float64))
    if arcs.closed[a]:
        return np.concatenate([corners, corners[:1]])
    return np.concatenate([junctions[arcs.ends[a, :1]], corners, junctions[arcs.ends[a, 1:]]])


def _areas(
    arcs: Arcs, lines: list[Contour], groups: NDArray[np.int64], background: int, hexes: tuple[str, ...]
) -> tuple[tuple[Outline, ...], tuple[str, ...]]:
    """Outlines of every label but the background, largest first, and their colours."""
    rings: dict[int, list[Contour]] = {}
    for loop in arcs.loops:
        arc, backward = loop[0]
        beside = int(arcs.right[arc] if backward else arcs.left[arc])
        label_of = OUTSIDE if beside == OUTSIDE else int(groups[beside])
        if label_of not in (OUTSIDE, background):
            rings.setdefault(label_of, []).append(_ring([lines[a].reversed() if b else lines[a] for a, b in loop]))
    found = [(outline, hexes[k]) for k, contours_of in rings.items() for outline in nested(contours_of)]
    found.sort(key=lambda pair: -pair[0].area)
    return tuple(o for o, _ in found), tuple(c for _, c in found)


def _ring(parts: list[Contour]) -> Contour:
    return Contour(np.concatenate([p.curves for p in parts]), np.concatenate([p.straight for p in parts]))
