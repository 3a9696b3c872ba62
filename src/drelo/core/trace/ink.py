"""Mode ink: dark shapes on light."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.picture.field import InkField, ink_field
from drelo.core.picture.sharpen import sharpened
from drelo.core.trace.area import cut
from drelo.core.trace.check.mending import mended
from drelo.core.trace.contours.fit import blur, fitted
from drelo.core.trace.fit.scene import InkScene
from drelo.core.trace.fit.trust import trust_in
from drelo.core.trace.nesting import nested, outer_only
from drelo.core.trace.ranges import check_calm, check_common, check_level, check_pinhole
from drelo.core.trace.seen.level_lines import ClosedLines, level_lines
from drelo.core.trace.seen.samples import sample
from drelo.core.trace.settings import InkSettings as InkSettings
from drelo.core.trace.struck import MAX_LOST
from drelo.core.trace.trace import Trace

# Smallest speck kept when the maker names none, px²: antialiased and hard-edged pictures.
CLEAN_SPECK, HARD_SPECK = 3.0, 5.0
# On large pictures a speck is also small against the picture: this share of its area.
SPECK_SHARE = 4e-6
# Noise (share of full ink) up to which none of it reaches the level, and px² a speck grows by above it.
SAFE_NOISE, NOISE_SPECK = 0.1, 150.0
# Dirt is a crowd of at least so many areas, most of them tiny (px²), and then a gap (ratio of areas) to what is meant.
DIRT, CROWD, TINY, TINY_SHARE, GAP = 80.0, 8, 8.0, 0.6, 2.5
# A field with at most so many pixels and a blur of more than so many px is looked at without its blur.
SHARPEN_UP_TO, SHARPEN_FROM = 200_000, 0.8
# More outlines than this cannot be worked with.
MAX_OUTLINES = 20_000


def check_settings(settings: InkSettings) -> None:
    """Raises Refusal with the field's name when a setting is out of its range."""
    check_level(settings.level)
    check_pinhole(settings.pinhole)
    check_common(settings.speck, settings.smooth, settings.keen, settings.area)


def trace_ink(picture: Picture, settings: InkSettings) -> Trace:
    """Closed, fitted outlines of the dark (or opaque) shapes of a picture.

    Raises Refusal when nothing is left to trace or a setting is out of range.
    """
    check_settings(settings)
    part = cut(picture, settings.area)
    field = part.fenced(ink_field(part.picture, settings.level, settings.invert, settings.local))
    lines = level_lines(field.values, field.level)
    seen = field
    if settings.level is None and not settings.quick and part.cover is None:
        field, lines = _sharp(field, lines)
    areas = lines.areas()
    speck = _found_speck(field, areas) if settings.speck is None else settings.speck
    pinhole = speck if settings.pinhole is None else settings.pinhole
    keep = np.where(areas > 0, areas >= max(speck, 1e-9), -areas >= max(pinhole, 1e-9))
    filled = int(np.count_nonzero(~keep & (areas < 0)))
    dropped = int(np.count_nonzero(~keep)) - filled
    gone, lines = lines.chosen(~keep), lines.chosen(keep)
    if not np.any(areas[keep] > 0):
        raise Refusal("trace.no-ink", "level")
    if len(lines) > MAX_OUTLINES:
        raise Refusal("trace.too-many-outlines", "speck", count=len(lines), most=MAX_OUTLINES)
    check_calm(len(lines.points), field.values.size)
    # Beside lines of one pixel their width could not be told from their tone, which is known.
    scene = InkScene(field.values, field.level, settings.level is None and field.plain is None, field.plain)
    trust = replace(trust_in(field, settings.smooth, settings.keen, settings.quick), unblurred=field is not seen)
    contours, check = fitted(lines, scene, trust, part.offset, field.bits), None
    if not settings.quick:
        contours, check = mended(contours, lines.moved(part.offset), trust.allowed)
    outlines = nested(contours)
    if not outlines:
        raise Refusal("trace.too-small", "level")
    if settings.silhouette:
        outlines = outer_only(outlines)
    return Trace(
        outlines,
        field.darkness,
        speck,
        dropped,
        filled=filled,
        pinhole=pinhole,
        lost=_rings(gone, part.offset),
        check=check,
    )


def _sharp(field: InkField, lines: ClosedLines) -> tuple[InkField, ClosedLines]:
    """A small blurred field without its blur; others as they are. A level set by hand is taken as the maker sees it."""
    if field.hard or field.values.size > SHARPEN_UP_TO or not len(lines):
        return field, lines
    soft = blur(sample(lines), InkScene(field.values, field.level))
    sharp = sharpened(field.values, soft) if soft > SHARPEN_FROM else None
    if sharp is None:
        return field, lines
    darkness = field.darkness + (field.level * sharp.ink - field.level) * field.span
    found = replace(field, values=sharp.values, darkness=darkness)
    return found, level_lines(found.values, found.level)


def _rings(lines: ClosedLines, offset: tuple[float, float]) -> tuple[NDArray[np.float64], ...]:
    """The longest of the lines as rings, px."""
    rings = lines.moved(offset)
    some = np.sort(np.argsort(-np.diff(lines.starts), kind="stable")[:MAX_LOST])
    return tuple(rings[i] for i in some.tolist())


def _found_speck(field: InkField, areas: NDArray[np.float64]) -> float:
    """px²: below what an area is dirt: at least what noise makes, and up to the gap behind a crowd of tiny ones."""
    base = HARD_SPECK if field.hard else CLEAN_SPECK
    base = max(base, SPECK_SHARE * field.values.size) + NOISE_SPECK * max(0.0, field.noise / 255 - SAFE_NOISE)
    sizes = np.sort(np.abs(areas))
    small = np.append(sizes[sizes < DIRT], DIRT)
    ratio = small[1:] / np.maximum(small[:-1], 1e-9)
    crowd = np.arange(1, len(small)) >= CROWD
    gap = crowd & (ratio >= GAP) & (small[:-1] > base)
    # What a gap parts from all that goes anyway is of another kind.
    apart = (ratio >= GAP) & (small[:-1] <= base) & (small[1:] > base)
    if apart.any() or not gap.any():
        return base
    at = int(np.flatnonzero(gap)[-1])
    # A picture of nothing but tiny shapes is not all dirt.
    if at + 1 == len(sizes):
        return base
    tiny = float(np.mean(small[: at + 1] < TINY))
    return float(np.sqrt(small[at] * small[at + 1])) if tiny >= TINY_SHARE else base
