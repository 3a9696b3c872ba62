"""Corners that the pixels of a picture without antialiasing show."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import KDTree

from drelo.core.picture.decode import decode
from drelo.core.trace.hard.stairs import line_ends, stair_corners
from drelo.core.trace.ink import InkSettings, trace_ink
from tests.core.hard_edges import bits_of, box, picture


def block(x: int, y: int, width: int, height: int, size: tuple[int, int] = (60, 70)) -> np.ndarray:
    ink = np.zeros(size, bool)
    ink[y : y + height, x : x + width] = True
    return ink


@pytest.mark.parametrize("width", range(2, 9))
@pytest.mark.parametrize("turned", [False, True])
def test_a_bar_on_the_pixels_comes_back_as_a_rectangle(width, turned):
    ink = block(20, 10, width, 40)
    (outline,) = trace_ink(picture(ink.T if turned else ink), InkSettings()).outlines
    assert len(outline.outer.curves) == 4
    box = (20, 10, 20 + width, 50)
    assert outline.outer.bounds == pytest.approx((box[1], box[0], box[3], box[2]) if turned else box, abs=0.2)


def test_every_corner_of_an_l_is_found_with_the_ways_that_lead_from_it():
    ink = block(10, 10, 4, 30) | block(10, 10, 20, 5)
    found = stair_corners(ink)
    ways = {
        tuple(p): (int(a[0]), int(b[1])) for p, a, b in zip(found.position, found.level, found.upright, strict=True)
    }
    assert ways == {
        (10, 10): (1, 1),
        (30, 10): (-1, 1),
        (30, 15): (-1, -1),
        (14, 15): (1, 1),
        (14, 40): (-1, -1),
        (10, 40): (1, -1),
    }


def skyline(heights: list[int], widths: list[int]) -> tuple[np.ndarray, np.ndarray]:
    """Towers side by side on level ground, and the corners that they make."""
    ink = np.zeros((60, 100), bool)
    corners, x, last = [(10, 50)], 10, 0
    for height, width in zip(heights, widths, strict=True):
        ink[50 - height : 50, x : x + width] = True
        corners += [(x, 50 - last), (x, 50 - height)] if last else [(x, 50 - height)]
        x, last = x + width, height
    return ink, np.array([*corners, (x, 50 - last), (x, 50)], float)


@given(st.lists(st.tuples(st.integers(3, 40), st.integers(3, 12)), min_size=1, max_size=6), st.booleans())
def test_what_lies_on_the_pixels_comes_back_corner_by_corner(towers, turned):
    heights, widths = [towers[0][0]], [towers[0][1]]
    for height, width in towers[1:]:
        if abs(height - heights[-1]) >= 3:
            heights.append(height)
            widths.append(width)
    ink, corners = skyline(heights, widths)
    (outline,) = trace_ink(picture(ink.T if turned else ink), InkSettings()).outlines
    nodes = outline.outer.curves[:, 0]
    assert KDTree(nodes).query(corners[:, ::-1] if turned else corners)[0].max() < 0.75
    assert len(nodes) == len(corners)


@pytest.mark.parametrize("goes_back", [2, 3, 4])
@pytest.mark.parametrize("height", [3, 4])
def test_a_low_slab_on_a_pillar_keeps_its_lower_corners(goes_back, height):
    ink = block(10, 10, 30, height) | block(10 + goes_back, 10, 28 - goes_back, 40)
    (outline,) = trace_ink(picture(ink), InkSettings()).outlines
    below = 10 + height
    away = KDTree(outline.outer.curves[:, 0]).query([(10, below), (10 + goes_back, below), (38, below), (40, below)])[0]
    assert away.max() < 0.4
    assert outline.outer.straight.all()
    assert len(outline.outer.curves) == 8


def test_a_square_end_stays_when_another_of_the_outline_becomes_square():
    ink = block(20, 40, 30, 2, (60, 80))
    ink |= bits_of(box(35.2, 29, 3.2, 30, -0.75))
    ink[42:] = False
    (outline,) = trace_ink(picture(ink), InkSettings()).outlines
    nodes = outline.outer.curves[:, 0]
    assert KDTree(nodes).query([(50, 40), (50, 42)])[0].max() < 0.3
    upper = nodes[nodes[:, 1] < 25]
    assert len(upper) == 2
    assert np.linalg.norm(upper[1] - upper[0]) == pytest.approx(3.2, abs=0.8)


@given(st.floats(5.5, 25), st.floats(0, 1), st.floats(0, 1), st.floats(0.7, 1))
def test_round_shapes_have_none(radius, dx, dy, flat):
    y, x = np.mgrid[:70, :70] + 0.5
    ink = (x - 35 - dx) ** 2 + ((y - 35 - dy) / flat) ** 2 < radius**2
    assert len(stair_corners(ink).position) == 0


@given(st.floats(0, 2 * np.pi), st.floats(-10, 10))
def test_straight_edges_have_none(angle, off):
    y, x = np.mgrid[:60, :60] + 0.5
    ink = (x - 30) * np.cos(angle) + (y - 30) * np.sin(angle) < off
    inside = stair_corners(ink).position
    # The edge of the picture closes the ink; what lies on it is no corner of the edge's own.
    inside = inside[((inside > 1) & (inside < 59)).all(axis=1)]
    assert len(inside) == 0


def test_a_blank_picture_has_none():
    assert len(stair_corners(np.zeros((5, 7), bool)).position) == 0


@pytest.mark.parametrize("width", [4, 6, 9])
def test_round_ends_stay_round(width):
    y, x = np.mgrid[:60, :80] + 0.5
    away = np.hypot(x - np.clip(x, 20, 60), y - 30.1)
    (outline,) = trace_ink(picture(away < width / 2), InkSettings()).outlines
    assert outline.area == pytest.approx(40 * width + np.pi * width**2 / 4, rel=0.05)
    ends = outline.flattened(0.02).bounds
    assert (ends[0], ends[2]) == pytest.approx((20 - width / 2, 60 + width / 2), abs=0.6)


@pytest.mark.parametrize(("width", "height"), [(3, 3), (4, 3), (4, 4), (5, 3)])
def test_small_dots_keep_their_size(width, height):
    ink = block(20, 10, width, height)
    (outline,) = trace_ink(picture(ink), InkSettings()).outlines
    assert outline.area == pytest.approx(width * height, rel=0.25)
    assert outline.outer.bounds == pytest.approx((20, 10, 20 + width, 10 + height), abs=0.5)


@pytest.mark.parametrize("quarters", range(4))
def test_ends_of_lines_of_one_pixel_point_out_of_the_line(quarters):
    ink = block(20, 30, 12, 1, (70, 70)) | block(25, 10, 1, 20, (70, 70))
    turned = np.rot90(ink, quarters)
    found = line_ends(turned, turned)
    # The upper end of the upright line, and both ends of the level one; at the joint none ends.
    ends = np.array([[25.5, 10, 0, -1], [20, 30.5, -1, 0], [32, 30.5, 1, 0]])
    for _ in range(quarters):
        ends = np.stack([ends[:, 1], 70 - ends[:, 0], ends[:, 3], -ends[:, 2]], axis=1)
    have = np.concatenate([found.position, found.ahead], axis=1)
    assert {tuple(e) for e in have.tolist()} == {tuple(e) for e in ends.tolist()}


def test_blocks_and_steps_end_no_line():
    ink = block(10, 10, 20, 6) | block(30, 12, 2, 2) | block(32, 12, 1, 1)
    found = line_ends(ink, ink)
    assert len(found.position) == 0


@given(st.integers(3, 30), st.booleans())
def test_the_end_of_a_line_has_two_corners_a_pixel_apart(length, turned):
    ink = block(12, 20, length, 1)
    (outline,) = trace_ink(picture(ink.T if turned else ink), InkSettings(speck=0.0)).outlines
    nodes = outline.outer.curves[:, 0]
    assert len(nodes) == 4
    apart = np.linalg.norm(nodes - np.roll(nodes, -1, axis=0), axis=1)
    assert np.sort(apart)[:2] == pytest.approx([1, 1], abs=0.35)
    assert np.sort(apart)[2:] == pytest.approx([length, length], abs=0.9)


def test_flat_colours_with_soft_letters_on_them_leave_no_stairs_in_ink():
    """As old logos of four colours come: their shapes are hard, what is written on them is not."""
    image = np.full((140, 200, 3), 255, np.uint8)
    cv2.circle(image, (70, 70), 60, (60, 0, 120), -1)
    cv2.circle(image, (70, 70), 30, (0, 255, 255), -1)
    cv2.fillPoly(image, [np.array([(100, 20), (190, 70), (100, 120)])], (60, 0, 120))
    cv2.putText(image, "Go", (110, 78), cv2.FONT_HERSHEY_DUPLEX, 0.7, (255, 255, 255), 1, cv2.LINE_AA)
    found = trace_ink(decode(cv2.imencode(".png", image)[1].tobytes()), InkSettings())
    (shape,) = [outline for outline in found.outlines if abs(outline.outer.area) > 5000]
    assert len(shape.outer.curves) < 16
