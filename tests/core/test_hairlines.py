"""Lines and gaps of one pixel in pictures without antialiasing."""

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.picture.decode import Picture
from drelo.core.picture.hairlines import hairlines
from drelo.core.trace.colours.colours import ColourSettings
from drelo.core.trace.ink import InkSettings
from drelo.core.trace.modes import Settings, trace
from drelo.core.trace.strokes.strokes import StrokeSettings
from drelo.core.trace.trace import Trace

PAPER, NAVY, BRICK = (250, 246, 230), (20, 20, 60), (200, 80, 40)


def sheet(height: int = 120, width: int = 140) -> np.ndarray:
    return np.full((height, width, 3), PAPER, np.uint8)


def traced(rgb: np.ndarray, how: Settings) -> Trace:
    return trace(Picture(rgb, None, None, "image/png"), how)


def line(rgb: np.ndarray, start: tuple[int, int], end: tuple[int, int], colour: tuple[int, int, int] = NAVY) -> None:
    cv2.line(rgb, start, end, colour, 1, cv2.LINE_8)


def parts(rgb: np.ndarray) -> tuple[int, int]:
    """Pieces of ink, held together by corners of pixels too, and holes in them."""
    ink = (rgb != PAPER).any(axis=2).astype(np.uint8)
    pieces = cv2.connectedComponents(ink, connectivity=8)[0] - 1
    return pieces, cv2.connectedComponents(1 - ink, connectivity=4)[0] - 2


def shape_of(found: Trace) -> tuple[int, int]:
    return len(found.outlines), sum(len(o.holes) for o in found.outlines)


@pytest.mark.parametrize("how", [InkSettings(), StrokeSettings(), ColourSettings()], ids=["ink", "strokes", "colours"])
def test_a_drawing_of_lines_of_one_pixel_is_traced_whole(how):
    rgb = sheet()
    line(rgb, (40, 10), (70, 35))
    line(rgb, (15, 100), (120, 112))
    cv2.circle(rgb, (95, 60), 30, NAVY, 1, cv2.LINE_8)
    cv2.rectangle(rgb, (8, 40), (40, 80), NAVY, 1)
    found = traced(rgb, how)
    assert shape_of(found) == parts(rgb) == (4, 2)
    assert found.nodes <= 30
    assert found.dropped == 0


@given(st.floats(0, np.pi), st.integers(12, 50))
@settings(max_examples=40, deadline=None)
def test_a_line_at_any_angle_comes_back_as_a_bar_one_pixel_wide(angle, long):
    rgb = sheet()
    ends = [(round(70 + s * long * np.cos(angle)), round(60 + s * long * np.sin(angle))) for s in (-1, 1)]
    line(rgb, *ends)
    found = traced(rgb, InkSettings())
    (outline,) = found.outlines
    length = float(np.hypot(*np.subtract(*ends)))
    area = abs(outline.outer.area)
    # A leaning line of one pixel a column is narrower across.
    assert 0.5 * length <= area <= 1.5 * length + 2
    assert outline.nodes <= 12
    far = np.array([outline.outer.bounds[:2], outline.outer.bounds[2:]])
    wanted = np.array([np.min(ends, axis=0), np.max(ends, axis=0) + 1])
    assert np.abs(far - wanted).max() < 2


def test_dashes_come_back_as_rectangles():
    rgb = sheet()
    for k in range(6):
        line(rgb, (10 + 14 * k, 30), (16 + 14 * k, 30))
        line(rgb, (10 + 14 * k, 50), (10 + 14 * k, 56))
    found = traced(rgb, InkSettings())
    assert len(found.outlines) == 12
    for outline in found.outlines:
        x0, y0, x1, y1 = outline.outer.bounds
        assert outline.nodes == 4
        assert sorted((x1 - x0, y1 - y0)) == pytest.approx((1, 7), abs=0.3)


@pytest.mark.parametrize("how", [InkSettings(), ColourSettings()], ids=["ink", "colours"])
def test_gaps_of_one_pixel_part_what_they_part(how):
    rgb = sheet()
    cv2.circle(rgb, (70, 60), 50, NAVY, -1, cv2.LINE_8)
    line(rgb, (10, 50), (130, 80), PAPER)
    line(rgb, (60, 0), (64, 119), PAPER)
    found = traced(rgb, how)
    assert shape_of(found) == (4, 0)
    assert found.nodes <= 40


def test_a_line_between_two_colours_stays_one_ring():
    rgb = sheet()
    cv2.circle(rgb, (70, 60), 40, BRICK, -1, cv2.LINE_8)
    cv2.circle(rgb, (70, 60), 40, NAVY, 1, cv2.LINE_8)
    found = traced(rgb, ColourSettings())
    assert shape_of(found) == (2, 1)
    assert found.nodes <= 24


def test_strokes_of_one_pixel_are_smooth_and_one_pixel_wide():
    rgb = sheet()
    cv2.ellipse(rgb, (70, 60), (55, 30), 15, 0, 360, NAVY, 1, cv2.LINE_8)
    line(rgb, (5, 112), (135, 100))
    found = traced(rgb, StrokeSettings())
    assert len(found.lines) == 2
    assert found.nodes <= 14
    assert [stroke.width for stroke in found.lines] == pytest.approx([1, 1], abs=0.3)


def test_a_dash_of_one_pixel_leaves_wide_strokes_as_they_are():
    rgb = sheet()
    cv2.ellipse(rgb, (70, 60), (50, 35), 15, 0, 300, NAVY, 5, cv2.LINE_8)
    (alone,) = traced(rgb, StrokeSettings()).lines
    line(rgb, (64, 60), (74, 60))
    strokes = traced(rgb, StrokeSettings()).lines
    assert len(strokes) == 2
    with_dash = max(strokes, key=lambda stroke: stroke.width)
    assert with_dash.width == pytest.approx(alone.width, abs=0.1)
    here, there = (shapely.LineString(stroke.contour.flattened(0.02)) for stroke in (with_dash, alone))
    assert shapely.hausdorff_distance(here, there) < 0.6


def test_dither_is_not_taken_for_lines():
    """Error diffusion makes chains of pixels of both kinds, between each other."""
    height, width = 90, 120
    grey = np.tile(np.linspace(0, 255, width), (height, 1))
    bits = np.zeros((height, width), bool)
    for y in range(height):
        for x in range(width):
            bits[y, x] = grey[y, x] <= 127
            rest = grey[y, x] - (0 if bits[y, x] else 255)
            for down, right, share in ((0, 1, 7), (1, -1, 3), (1, 0, 5), (1, 1, 1)):
                if y + down < height and 0 <= x + right < width:
                    grey[y + down, x + right] += rest * share / 16
    ink, gaps = hairlines(bits)
    assert ink.mean() < 0.02
    assert gaps.mean() < 0.02


def test_steps_and_bumps_of_edges_are_no_lines():
    bits = np.zeros((60, 60), bool)
    for y in range(60):
        bits[y, : 20 + y // 7] = True
    bits[30, 24 + 1] = bits[40:42, 26] = True
    ink, gaps = hairlines(bits)
    assert not ink.any()
    assert not gaps.any()


@pytest.mark.parametrize("width", [0.7, 1.0, 1.4])
def test_antialiased_hairlines_of_a_colour_hang_together(width):
    large = np.repeat(np.repeat(sheet(), 16, axis=0), 16, axis=1)
    for start, end in (((10.3, 10.2), (70.1, 40.7)), ((10, 60.4), (70, 60.4)), ((80, 10), (132, 14))):
        ends = [tuple(int(16 * v) for v in point) for point in (start, end)]
        cv2.line(large, *ends, BRICK, int(16 * width), cv2.LINE_8)
    cv2.circle(large, (16 * 100, 16 * 75), 16 * 30, BRICK, int(16 * width))
    rgb = cv2.resize(large, (140, 120), interpolation=cv2.INTER_AREA)
    found = traced(rgb, ColourSettings())
    assert shape_of(found) == (4, 1)
    assert found.dropped == 0


@pytest.mark.parametrize("how", [InkSettings(), StrokeSettings()], ids=["ink", "strokes"])
def test_nothing_runs_out_of_the_picture(how):
    rgb = sheet()
    for end in ((-20, 30), (160, 20), (60, -20), (100, 150)):
        line(rgb, (70, 60), end)
    cv2.circle(rgb, (0, 100), 30, NAVY, -1, cv2.LINE_8)
    bounds = np.array([o.outer.bounds for o in traced(rgb, how).outlines])
    assert bounds.min() > -0.6
    assert bounds[:, 2].max() < 140.6
    assert bounds[:, 3].max() < 120.6


@pytest.mark.parametrize("long", [5, 8, 14])
def test_a_short_line_holds_together_what_is_wide(long):
    rgb = sheet()
    rgb[20:50, 10:40] = NAVY
    rgb[42 + long : 72 + long, 41 + long : 71 + long] = NAVY
    line(rgb, (40, 46), (40 + long, 46 + long))
    (outline,) = traced(rgb, InkSettings()).outlines
    assert abs(outline.outer.area) == pytest.approx(1800 + long, abs=long)


FONTS = (cv2.FONT_HERSHEY_SIMPLEX, cv2.FONT_HERSHEY_COMPLEX, cv2.FONT_HERSHEY_SCRIPT_COMPLEX, cv2.FONT_HERSHEY_TRIPLEX)


@pytest.mark.parametrize("font", FONTS)
def test_thin_lettering_keeps_its_tails_and_bows(font):
    """Lines of one pixel that turn at every other pixel are lines too."""
    seen = missing = 0
    for word in ("S2b2D", "ag&rq", "Q8e3k", "hftyz"):
        rgb = sheet(60, 170)
        cv2.putText(rgb, word, (8, 42), font, 1.0, NAVY, 1, cv2.LINE_8)
        ink = (rgb != PAPER).any(axis=2)
        shapes = [o.flattened(0.05) for o in traced(rgb, InkSettings()).outlines]
        covered = shapely.union_all(shapes).buffer(0.75)
        y, x = np.nonzero(ink)
        seen += len(x)
        missing += int((~shapely.contains_xy(covered, x + 0.5, y + 0.5)).sum())
    assert missing < 0.015 * seen


def test_a_slit_of_one_pixel_between_two_lines_stays_open():
    rgb = sheet()
    for x in (40, 42):
        line(rgb, (x, 20), (x, 80))
    for y in (20, 80):
        line(rgb, (40, y), (42, y))
    found = traced(rgb, InkSettings())
    assert shape_of(found) == parts(rgb) == (1, 1)
    assert found.outlines[0].holes[0].area == pytest.approx(59, rel=0.15)


def test_holes_far_larger_than_the_slits_beside_them_are_no_dirt():
    rgb = sheet()
    cv2.rectangle(rgb, (10, 10), (110, 60), NAVY, -1)
    for k in range(12):
        rgb[20 + 3 * k, 20:23] = PAPER
    for x in (60, 80):
        rgb[30:35, x : x + 5] = PAPER
    assert shape_of(traced(rgb, InkSettings())) == (1, 2)
