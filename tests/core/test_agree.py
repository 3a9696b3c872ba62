"""Curves that agree with the pixels of a picture without antialiasing."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.trace.hard.agree import agreeing
from drelo.core.trace.hard.flats import Flats
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.core.trace.seen.coverage import coverage
from tests.core.hard_edges import bits_of, box, curves_of, flats_of, picture

boxes = st.builds(box, st.floats(35, 45), st.floats(28, 32), st.floats(6, 40), st.floats(6, 25), st.floats(0, np.pi))


@given(boxes, st.floats(-0.4, 0.4), st.floats(-0.4, 0.4))
def test_a_shape_beside_its_place_comes_to_agree(corners, dx, dy):
    flats = flats_of(corners)
    beside = curves_of(corners + np.array([dx, dy]))
    before, after = (float(flats.wrong(c).amount.sum()) for c in (beside, agreeing(beside, flats, 1)))
    assert after <= max(0.4 * before, 0.01 * 80)


@given(boxes)
def test_a_shape_in_its_place_has_no_wrong_pixel(corners):
    assert flats_of(corners).wrong(curves_of(corners)).amount.sum() == 0


def test_wrong_pixels_say_where_and_by_how_much():
    square = curves_of(box(40, 30, 20, 20, 0.0))
    bits = bits_of(box(40, 30, 20, 20, 0.0))
    bits[29, 29] = True
    wrong = Flats.of_ink(bits, 1).wrong(square)
    assert wrong.at.tolist() == [[29.5, 29.5]]
    assert wrong.amount == pytest.approx([0.5])


def test_where_the_pixels_are_ragged_a_line_stays():
    corners = box(40, 30, 30, 20, 0.3)
    random = np.random.default_rng(4)
    bits = bits_of(corners)
    edge = bits_of(box(40, 30, 33, 23, 0.3)) & ~bits_of(box(40, 30, 27, 17, 0.3))
    bits ^= edge & (random.random(bits.shape) < 0.4)
    curves = curves_of(corners)
    assert np.array_equal(agreeing(curves, Flats.of_ink(bits, 1), 1).node, curves.node)


def test_a_trace_makes_the_pixels_that_it_was_made_of():
    random = np.random.default_rng(12)
    right = 0
    for _ in range(60):
        bits = bits_of(box(*random.uniform([35, 28, 10, 10, 0], [45, 32, 40, 25, np.pi])))
        (outline,) = trace_ink(picture(bits), InkSettings()).outlines
        ring = outline.outer.flattened(0.01)
        made = coverage(ring, np.roll(ring, -1, 0), 80, 60)
        wrong = np.where(bits, 0.5 - made, made - 0.5).clip(0)
        right += wrong.max() < 0.3 and wrong.sum() < 0.6
    assert right >= 59


def test_teeth_keep_their_corners_however_they_lean():
    found = []
    for turned in np.arange(0.1, 1.5, 0.2):
        angle = np.linspace(0, -2 * np.pi, 24, endpoint=False) + turned
        radius = np.where(np.arange(24) // 2 % 2, 26.0, 38.0)
        corners = np.stack([45 + radius * np.cos(angle), 45 + radius * np.sin(angle)], 1)
        (outline,) = trace_ink(picture(bits_of(corners, (90, 90))), InkSettings()).outlines
        nodes = outline.outer.curves[:, 0]
        found.append(np.linalg.norm(corners[:, None] - nodes[None], axis=2).min(axis=1) < 1.0)
        assert len(nodes) <= 30
    assert np.mean(found) >= 0.8


@pytest.mark.parametrize("radius", [5.0, 8.0, 13.0])
def test_a_disc_stays_round(radius):
    y, x = np.mgrid[:60, :60] + 0.5
    (outline,) = trace_ink(picture(np.hypot(x - 30.2, y - 29.7) < radius), InkSettings()).outlines
    assert len(outline.outer.curves) <= 8
    directions = np.diff(outline.outer.flattened(0.005), axis=0)
    turning = np.abs(np.diff(np.unwrap(np.arctan2(directions[:, 1], directions[:, 0]))))
    assert turning.max() < 0.45


@pytest.mark.parametrize("silhouette", [False, True])
def test_a_picture_with_nothing_but_a_speck_is_traced_when_all_is_asked_for(silhouette):
    # Curves alone would cover nothing of it: its contour is led along its pixels.
    bits = np.zeros((40, 40), bool)
    bits[10:13, 11] = bits[11:14, 10] = True
    (outline,) = trace_ink(picture(bits), InkSettings(speck=0.0, silhouette=silhouette)).outlines
    assert 3 < outline.area < 9
