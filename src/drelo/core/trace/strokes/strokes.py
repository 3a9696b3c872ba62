"""Mode strokes: the middle lines of a line drawing, with their widths."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline, even_odd
from drelo.core.picture.decode import Picture
from drelo.core.picture.field import InkField, ink_field
from drelo.core.trace.area import cut
from drelo.core.trace.check.check import check_of
from drelo.core.trace.check.deviation import as_a_whole
from drelo.core.trace.check.mending import mended
from drelo.core.trace.contours.fit import contours, fitted, through
from drelo.core.trace.fit.curves import Flags
from drelo.core.trace.fit.scene import InkScene
from drelo.core.trace.fit.trust import HARD_ALONG, HARD_SCALE, Trust, keenness, trust_in
from drelo.core.trace.nesting import nested
from drelo.core.trace.ranges import check_calm, check_common, check_level, edge_length
from drelo.core.trace.seen.level_lines import ClosedLines, level_lines
from drelo.core.trace.settings import StrokeSettings as StrokeSettings
from drelo.core.trace.strokes.filled import around, filled, missed, outline_field, run_into
from drelo.core.trace.strokes.fitting import NO_STROKES, Strokes, covered, first_fit, made_by, refined
from drelo.core.trace.strokes.hairs import crisp
from drelo.core.trace.strokes.paths import Path
from drelo.core.trace.strokes.pens import by_pen, far_parts, radius
from drelo.core.trace.strokes.reading import check_count, read_pen
from drelo.core.trace.strokes.ties import over_dots, tied
from drelo.core.trace.struck import rings_round
from drelo.core.trace.trace import Check, Line, Trace

# px²: smaller pieces of ink are dropped and smaller holes filled when the maker names none.
SPECK = 6.0
# Distance (px) that a segment may keep from the middle line, at calmness 0, 0.5 and 1.
TOLERANCES = ((0.0, 0.5, 1.0), (0.12, 0.3, 1.4))
# How much more where there is no antialiasing.
STAIR_TOLERANCE = 2.2
ROUNDS = 3
# Outlines are fitted at a size at which strokes are at least so wide, px.
ENDS_SEEN = 3.0
# Chord tolerance (px) at which filled shapes are put together with strokes.
CHORD = 0.03
# They are looked for so often, and once where there are more strokes than so many: each time all are read again.
FILL_ROUNDS, MANY = 2, 300
# A stroke may be wider or thinner here and there by this share of its width, but not by more px.
UNEVEN, UNEVEN_PX = 0.2, 2.0
# Ink is a stroke's where so much of it is covered; what is lost reaches so far from all strokes, px and of its own
# widths. It is looked for so often.
COVERED, FAR, FAR_WIDTHS, LEFT_ROUNDS = 0.3, 4.0, 2.0, 2
# Or it lies along a stroke, nearly as wide as strokes are (this share of their width, and px), and so many times as
# long.
STRIP_WIDE, STRIP_PX, STRIP_LONG = 0.6, 3.0, 2.5
# Or it is a blob, such as the head of a note, so many times as wide as strokes are, and px, and at least about round.
BLOB_WIDE, BLOB_PX, BLOB_AREA = 1.5, 5.0, 0.7


def check_settings(settings: StrokeSettings) -> None:
    """Raises Refusal with the field's name when a setting is out of its range."""
    check_level(settings.level)
    if settings.width is not None and not 0 < settings.width <= 1e4:
        raise Refusal("trace.width", "width")
    check_common(settings.speck, settings.smooth, settings.keen, settings.area)


def trace_strokes(picture: Picture, settings: StrokeSettings) -> Trace:
    """Middle lines of the ink, fitted, with widths.

    Raises Refusal when there is no ink or a setting is out of range.
    """
    check_settings(settings)
    part = cut(picture, settings.area)
    field = part.fenced(ink_field(part.picture, settings.level, settings.invert, settings.local))
    speck = SPECK if settings.speck is None else settings.speck
    seen = crisp(field)
    inked = seen.values > seen.level
    ink, dropped = _clean(inked, speck)
    if not ink.any():
        raise Refusal("trace.no-ink-at-level", "level")
    check_calm(edge_length(ink), ink.size)
    # Every piece of ink is a stroke at least, and thinning is slow.
    check_count(cv2.connectedComponents(ink.astype(np.uint8), connectivity=8)[0] - 1)
    tolerance = float(np.interp(settings.smooth, *TOLERANCES)) * (1 + min(field.noise / 20, 0.6))
    along = 0.0
    if field.hard:
        # The middle of a thin line is a staircase.
        tolerance, along = tolerance * STAIR_TOLERANCE, HARD_ALONG
    trust = Trust(
        (0.75 + min(field.noise / 40, 0.8) + (HARD_SCALE if along else 0.0)) * keenness(settings.keen), tolerance, along
    )
    strokes, shapes = _strokes(ink, field, seen, trust, speck, settings.quick)
    if settings.width is not None:
        strokes = replace(strokes, width=np.full(len(strokes.width), settings.width))
    closely = trust_in(field, settings.smooth, settings.keen, settings.quick)
    filled_in = _contours_of(field, shapes, speck, closely)
    drawn = contours(strokes.curves, len(strokes.width), part.offset)
    lines = zip(drawn, strokes.width.tolist(), strokes.caps, strokes.joins, strict=True)
    outlines, check = _outlines(strokes, filled_in, tolerance, part.offset, field, ink)
    return Trace(
        outlines,
        level=field.darkness,
        speck=speck,
        dropped=dropped,
        lines=tuple(Line(*line) for line in lines),
        shapes=nested([c.transformed(1, *part.offset) for c in filled_in]),
        lost=rings_round(inked != ink, 1.0, part.offset) if dropped else (),
        check=None if settings.quick else check,
    )


def _strokes(
    ink: Flags, field: InkField, seen: InkField, trust: Trust, pinhole: float, quick: bool
) -> tuple[Strokes, Flags]:
    """All strokes, fitted, and what of the ink is filled and no stroke; raises Refusal when there is neither.

    seen: the field as it is read.
    """
    shapes = np.zeros_like(ink)
    for turn in range(FILL_ROUNDS + 1):
        paths, strokes = _read(ink & ~shapes, shapes, seen, trust, pinhole)
        if paths:
            strokes = refined(strokes, paths, field, around(shapes), trust.tolerance, 1 if quick else ROUNDS)
        if not paths or turn == (FILL_ROUNDS if len(paths) <= MANY else 1):
            break
        more = filled(strokes, ink, shapes, trust.tolerance + _uneven(strokes))
        if not more.any():
            break
        shapes = shapes | more
    return strokes, shapes | missed(strokes, ink, shapes, trust.tolerance + _uneven(strokes))


def _uneven(strokes: Strokes) -> float:
    """px by which a pen draws wider or thinner here and there: what it adds to either side is the mode's."""
    return min(UNEVEN * float(np.median(strokes.width)), UNEVEN_PX) if len(strokes.width) else 0.0


def _contours_of(field: InkField, shapes: Flags, pinhole: float, trust: Trust) -> list[Contour]:
    """Contours of filled shapes, which reach a little into the strokes that run into them, px."""
    if not shapes.any():
        return []
    alone = outline_field(field, shapes)
    lines = level_lines(alone.values, alone.level)
    areas = lines.areas()
    lines = lines.chosen(np.where(areas > 0, areas >= SPECK, -areas >= pinhole))
    scene = InkScene(alone.values, alone.level, plain=alone.plain)
    found, _ = mended(fitted(lines, scene, trust, bits=alone.bits), lines.moved((0.0, 0.0)), trust.allowed)
    return found


def _read(ink: Flags, shapes: Flags, field: InkField, trust: Trust, pinhole: float) -> tuple[list[Path], Strokes]:
    """Paths and first fits of all strokes, pen by pen, the thickest first; raises Refusal when there are none.

    shapes: ink that is filled, into which strokes run.
    """
    pens = by_pen(ink, field.values, field.level)
    whole = ink | shapes
    known: list[Path] = []
    fits: list[Strokes] = []
    thick, joints = np.zeros_like(ink), 0
    for pen in pens:
        known, more, joints = _with_pen(pen, whole, thick, shapes, known, joints, field, trust, pinhole)
        fits += more
        thick = thick | pen
    for _ in range(LEFT_ROUNDS):
        # What no stroke covers was lost: it is read by itself.
        left = ink if not fits else _left(ink, _together(fits))
        if not left.any() or not fits:
            break
        known, more, joints = _with_pen(left, whole, ink & ~left, shapes, known, joints, field, trust, pinhole)
        fits += more
    if known:
        return known, _together(fits)
    if shapes.any():
        return [], NO_STROKES
    raise Refusal("trace.no-line-left", "speck")


def _with_pen(
    pen: Flags,
    ink: Flags,
    thick: Flags,
    shapes: Flags,
    known: list[Path],
    joints: int,
    field: InkField,
    trust: Trust,
    pinhole: float,
) -> tuple[list[Path], list[Strokes], int]:
    """What is known with the strokes of one more pen, the first fit of these, and how many joints there are then."""
    read = read_pen(pen, ink, field, joints)
    check_count(len(known) + len(read.paths))
    joints = max([joints - 1, *(j for p in read.paths for j in (*p.ends, *p.through))]) + 1
    paths, known, joints = tied(over_dots(read.paths, pinhole), known, thick, joints)
    if not paths:
        return known, [], joints
    paths = run_into(paths, shapes)
    scale = read.scale
    local = replace(trust, tolerance=trust.tolerance / min(scale, 2.0), along=trust.along / scale)
    fit = first_fit([p.placed(1 / scale) for p in paths], read.field, local).enlarged(scale)
    return [*known, *paths], [fit], joints


def _together(fits: Sequence[Strokes]) -> Strokes:
    whole = fits[0]
    for more in fits[1:]:
        whole = whole.and_more(more)
    return whole


def _left(ink: Flags, strokes: Strokes) -> Flags:
    """Ink that lies far from all strokes, with what hangs on it, or in strips as wide as they are along them."""
    usual = float(np.median(strokes.width))
    covered = made_by(strokes, ink.shape) > COVERED
    beside = np.asarray(cv2.dilate(covered.astype(np.uint8), np.ones((3, 3), np.uint8)), bool)
    rest = ink & ~beside
    parts, furthest = far_parts(rest, covered)
    wide = np.zeros(len(furthest))
    np.maximum.at(wide, parts[rest], 2 * radius(rest)[rest])
    area = np.bincount(parts.ravel(), minlength=len(wide))
    lost = furthest >= np.maximum(FAR, FAR_WIDTHS * wide)
    lost |= (wide >= max(STRIP_WIDE * usual, STRIP_PX)) & (area >= STRIP_LONG * wide**2)
    lost |= (wide >= max(BLOB_WIDE * usual, BLOB_PX)) & (area >= BLOB_AREA * wide**2)
    lost[0] = False
    return np.asarray(lost[parts])


def _clean(ink: Flags, speck: float) -> tuple[Flags, int]:
    """Ink without pieces and holes under `speck` px², and how many there were."""
    dropped = 0
    for value, connectivity in ((True, 8), (False, 4)):
        chosen = (ink == value).astype(np.uint8)
        _, parts, stats, _ = cv2.connectedComponentsWithStats(chosen, connectivity=connectivity)
        small = stats[:, cv2.CC_STAT_AREA] < speck
        small[0] = False
        dropped += int(small.sum())
        ink = np.where(small[parts], not value, ink)
    return ink, dropped


def _outlines(
    strokes: Strokes,
    filled_in: Sequence[Contour],
    tolerance: float,
    offset: tuple[float, float],
    field: InkField,
    ink: Flags,
) -> tuple[tuple[Outline, ...], Check]:
    """What strokes and filled shapes cover of the picture, as closed outlines, held against themselves and the ink."""
    shapes = even_odd([c.flattened(CHORD) for c in filled_in])
    starts, _, bounds = covered(strokes, field.values.shape, [shapes])
    # Of thin strokes the ends are smaller than what lines are sampled at.
    large = max(1.0, ENDS_SEEN / strokes.usual_width) if len(strokes.width) else 1.0
    lines = ClosedLines(starts * large, bounds)
    found, check = mended(through(lines, tolerance / 2), lines.moved((0.0, 0.0)), tolerance)
    drawn = [c.transformed(1 / large) for c in found]
    seen = np.where(ink, field.values, np.minimum(field.values, np.float32(0.9 * field.level)))
    off = as_a_whole(drawn, level_lines(seen, field.level), tolerance + _uneven(strokes))
    held = check_of(check.again, check.crossings, off).enlarged(1.0, offset)
    return nested([c.transformed(1, *offset) for c in drawn]), held
