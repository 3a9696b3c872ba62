"""Straight edges of pictures without antialiasing."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import KDTree

from drelo.core.outline.contour import Contour
from drelo.core.trace.hard.flats import Flats
from drelo.core.trace.hard.straight import straightened
from drelo.core.trace.ink import InkSettings, trace_ink
from tests.core.hard_edges import bits_of, box, curves_of, flats_of, picture

SIZE = (240, 320)


def traced(bits: np.ndarray) -> Contour:
    (outline,) = trace_ink(picture(bits), InkSettings()).outlines
    return outline.outer


def test_the_sides_of_leaning_boxes_are_lines():
    random = np.random.default_rng(8)
    plain = 0
    for _ in range(40):
        size = random.uniform(40, 150, 2)
        outline = traced(bits_of(box(*random.uniform([150, 110], [170, 130]), *size, random.uniform(0, np.pi)), SIZE))
        plain += len(outline) == 4 and outline.straight.all()
    assert plain >= 38


@pytest.mark.parametrize("lean", [0.004, 0.011, 0.02, 0.03, 0.07])
def test_a_side_that_hardly_leans_is_one_line_and_not_its_steps(lean):
    corners = box(160, 120, 240, 90, lean)
    outline = traced(bits_of(corners, SIZE))
    assert len(outline) == 4
    assert outline.straight.all()
    away = np.linalg.norm(outline.curves[:, None, 0] - corners, axis=2).min(axis=1)
    assert away.max() < 0.75


@settings(max_examples=40)
@given(st.floats(0, np.pi), st.floats(-0.3, 0.3), st.floats(-0.3, 0.3))
def test_the_line_makes_the_pixels_that_it_is_told_by(angle, dx, dy):
    corners = box(160, 120, 120, 60, angle)
    beside, lines = straightened(curves_of(corners + np.array([dx, dy])), flats_of(corners, SIZE))
    assert len(beside) == 4
    assert lines.known.all()
    for k in range(4):
        # Along the whole side the true one lies within a pixel's half of it, and mostly much nearer.
        side = corners[k] + np.linspace(0.1, 0.9, 9)[:, None] * (corners[(k + 1) % 4] - corners[k])
        normal = np.array([lines.along[k, 1], -lines.along[k, 0]])
        assert np.abs((side - lines.on[k]) @ normal).max() < 0.51


def test_ragged_pixels_are_told_as_no_line():
    corners = box(160, 120, 120, 60, 0.3)
    bits = bits_of(corners, SIZE)
    bits ^= np.random.default_rng(2).random(bits.shape) < 0.3
    _, lines = straightened(curves_of(corners), Flats.of_ink(bits, 1))
    assert not lines.known.any()


@pytest.mark.parametrize("radius", [9.0, 20.0, 43.0, 90.0])
def test_circles_have_no_lines(radius):
    angle = np.linspace(0, -2 * np.pi, 720, endpoint=False)
    ring = np.array([160.2, 119.7]) + radius * np.stack([np.cos(angle), np.sin(angle)], 1)
    assert not traced(bits_of(ring, SIZE)).straight.any()


@pytest.mark.parametrize("bow", [2.0, 4.0, 8.0, 15.0])
def test_a_bowed_side_stays_bowed(bow):
    x = np.linspace(60, 260, 200)
    lower = np.stack([x, 150 + bow * (1 - ((x - 160) / 100) ** 2)], 1)
    outline = traced(bits_of(np.concatenate([[[60.0, 90.0]], lower, [[260.0, 90.0]]]), SIZE))
    assert not outline.straight.all()
    ring = outline.flattened(0.01)
    # A point every tenth of a pixel.
    dense = np.concatenate(
        [
            a + np.linspace(0, 1, 2 + int(10 * np.linalg.norm(b - a)))[:, None] * (b - a)
            for a, b in zip(ring, np.roll(ring, -1, 0), strict=True)
        ]
    )
    assert KDTree(dense).query(lower[2:-2])[0].max() < 0.6
