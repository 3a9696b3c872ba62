"""Flat colours without antialiasing, as in grabs of screens: what lies on the pixels stays there."""

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from drelo.core.picture.decode import Picture
from drelo.core.trace.colours.colours import ColourSettings, trace_colours
from drelo.core.trace.trace import Trace

GROUND = (245, 245, 245)
COLOURS = ((200, 40, 30), (30, 80, 200), (40, 160, 60), (230, 190, 40))

spans = st.tuples(st.integers(5, 60), st.integers(5, 25))
tiles = st.lists(st.tuples(spans, spans), min_size=2, max_size=len(COLOURS))


def painted(found: list[tuple[tuple[int, int], tuple[int, int]]]) -> np.ndarray:
    """Boxes over each other, each ((x, width), (y, height))."""
    pixels = np.full((90, 90, 3), GROUND, np.uint8)
    for ((x, width), (y, height)), colour in zip(found, COLOURS, strict=False):
        pixels[y : y + height, x : x + width] = colour
    return pixels


def traced(pixels: np.ndarray) -> Trace:
    return trace_colours(Picture(pixels, None, None, "image/png"), ColourSettings())


def named(colour: tuple[int, int, int]) -> str:
    return "#{:02x}{:02x}{:02x}".format(*colour)


def apart(places: list[int]) -> bool:
    gaps = np.diff(np.unique(places))
    return bool((gaps >= 3).all())


@settings(max_examples=60)
@given(tiles)
def test_boxes_over_each_other_keep_their_corners_and_sides(found):
    for k in (0, 1):
        assume(apart([edge for box in found for edge in (box[k][0], sum(box[k]))]))
    pixels = painted(found)
    assume(len(np.unique(pixels.reshape(-1, 3), axis=0)) == len(found) + 1)
    trace = traced(pixels)
    contours = [c for o in trace.outlines for c in o.contours]
    off = [abs(v - round(v)) for c in contours for v in c.curves[:, 0].ravel().tolist()]
    # Some junction may be a little beside its place along a side that goes on straight.
    assert np.mean(np.array(off) < 0.15) > 0.9
    assert np.mean(np.concatenate([c.straight for c in contours])) > 0.9
    for colour in COLOURS[: len(found)]:
        area = sum(o.area for o, fill in zip(trace.outlines, trace.fills, strict=True) if fill == named(colour))
        assert area == pytest.approx(int((pixels == colour).all(axis=2).sum()), rel=0.03)


def test_antialiased_boxes_over_each_other_keep_corners_close_to_junctions():
    random = np.random.default_rng(3)
    bent = beside = nodes = 0
    for _ in range(12):
        # In eighths of a pixel; no two edges come closer than four pixels.
        across, down = (np.sort(random.permutation(17)[:6]) * 34 + random.integers(0, 3, 6) + 40 for _ in range(2))
        random.shuffle(across)
        random.shuffle(down)
        large = np.full((720, 720, 3), GROUND, np.uint8)
        for colour, (x0, x1), (y0, y1) in zip(COLOURS, across.reshape(3, 2), down.reshape(3, 2), strict=False):
            large[min(y0, y1) : max(y0, y1), min(x0, x1) : max(x0, x1)] = colour
        pixels = np.round(large.reshape(90, 8, 90, 8, 3).mean(axis=(1, 3))).astype(np.uint8)
        for contour in (c for o in traced(pixels).outlines for c in o.contours):
            off = [np.abs(contour.curves[:, 0, k, None] - v / 8).min(axis=1) for k, v in ((0, across), (1, down))]
            nodes += len(contour.curves)
            beside += int((np.max(off, axis=0) > 0.3).sum())
            bent += int((~contour.straight).sum())
    assert nodes > 150
    assert beside == 0
    assert bent <= 2


@pytest.mark.parametrize("legs", [3, 4, 6])
def test_a_corner_near_a_junction_is_kept(legs):
    # The lower box lies over the upper one, which looks out by a little.
    pixels = painted([((20, 14), (14, 20)), ((10, 50), (14 + legs, 30))])
    trace = traced(pixels)
    (upper,) = (o.outer for o, fill in zip(trace.outlines, trace.fills, strict=True) if fill == named(COLOURS[0]))
    assert len(upper.curves) == 4
    assert upper.straight.all()
    assert upper.bounds == pytest.approx((20, 14, 34, 14 + legs), abs=0.1)


def test_a_slanting_edge_between_two_colours_is_one_line():
    y, x = np.mgrid[:80, :120] + 0.5
    pixels = np.full((80, 120, 3), GROUND, np.uint8)
    inside = (x > 20) & (x < 100) & (y > 15) & (y < 65)
    above = y < 30.3 + 0.17 * x
    pixels[inside & above] = COLOURS[0]
    pixels[inside & ~above] = COLOURS[1]
    trace = traced(pixels)
    assert sorted(len(o.outer.curves) for o in trace.outlines) == [4, 4]
    for outline in trace.outlines:
        assert outline.outer.straight.all()
        corners = outline.outer.curves[:, 0]
        slanting = corners[(corners[:, 1] > 20) & (corners[:, 1] < 60)]
        assert slanting[:, 1] == pytest.approx(30.3 + 0.17 * slanting[:, 0], abs=0.3)
