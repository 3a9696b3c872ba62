"""Samples along closed lines: going round, directions, turning."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.trace.corners.corners import find_corners
from drelo.core.trace.seen.level_lines import ClosedLines
from drelo.core.trace.seen.samples import SPACING, calmed, sample


def lines_of(*rings):
    rings = [np.asarray(r, float) for r in rings]
    return ClosedLines(np.concatenate(rings), np.cumsum([0, *map(len, rings)]))


def circle(x, y, radius, count=400):
    # Against the clock on the screen, where y points down.
    angle = -np.linspace(0, 2 * np.pi, count, endpoint=False)
    return np.stack([x + radius * np.cos(angle), y + radius * np.sin(angle)], axis=1)


def star(x, y, radius, tips, lean=0.2):
    angle = -np.pi * np.arange(2 * tips) / tips + lean
    reach = np.where(np.arange(2 * tips) % 2 == 0, radius, 0.45 * radius)
    return np.stack([x + reach * np.cos(angle), y + reach * np.sin(angle)], axis=1)


two = sample(lines_of(circle(30, 30, 12), [(60, 10), (60, 40), (95, 40), (95, 10)]))


def test_samples_are_evenly_spaced_round_every_line():
    step = np.linalg.norm(two.points[two.shifted(1)] - two.points, axis=1)
    inside = two.owner == 0
    assert step[inside] == pytest.approx(two.step[0], rel=1e-3)
    assert two.step == pytest.approx(SPACING, rel=0.05)
    # Only where the corners of the box are cut are steps shorter.
    assert np.count_nonzero(step[~inside] < 0.99 * two.step[1]) <= 4


@given(st.integers(-90, 90))
def test_going_on_by_some_steps_stays_on_the_line(by):
    index = two.shifted(by)
    assert np.array_equal(two.owner[index], two.owner)
    assert np.array_equal(two.shifted(-by)[index], np.arange(len(index)))
    some = np.array([0, 5, two.starts[1] - 1, two.starts[1], len(two.points) - 1])
    assert np.array_equal(two.stepped(some, by), index[some])


def test_around_lists_what_steps_lead_to():
    some = np.array([0, two.starts[1] - 1, two.starts[1]])
    around = two.around(some, 3)
    assert np.array_equal(around, np.stack([two.stepped(some, k) for k in range(-3, 4)], axis=1))


@pytest.mark.parametrize("reach", [2, 5, 9])
def test_directions_of_a_circle_are_its_tangents(reach):
    samples = sample(lines_of(circle(30, 30, 12)))
    away = samples.points - 30
    tangent = np.stack([away[:, 1], -away[:, 0]], axis=1) / 12
    assert np.einsum("ni,ni->n", samples.directions(reach), tangent) == pytest.approx(1.0, abs=1e-3)


@given(st.integers(0, 12), st.integers(1, 12))
def test_turning_is_the_angle_between_two_directions(before, after):
    directions = two.directions(4)
    here, there = directions[two.shifted(-before)], directions[two.shifted(after)]
    plain = np.angle((there[:, 0] + 1j * there[:, 1]) / (here[:, 0] + 1j * here[:, 1]))
    # A half turn has no sign.
    apart = (two.turning(directions, before, after) - plain + np.pi) % (2 * np.pi) - np.pi
    assert np.abs(apart).max() < 1e-9


def test_a_line_turns_once_round():
    turning = two.turning(two.directions(3))
    assert np.bincount(two.owner, turning) == pytest.approx([-2 * np.pi] * 2, abs=1e-6)


def test_calming_takes_out_ripples_and_leaves_small_lines_their_size():
    ripple = circle(60, 60, 40, 900) + 0.3 * np.sin(np.arange(900) * 2 * np.pi / 9)[:, None]
    samples = sample(lines_of(ripple, circle(10, 10, 1.6, 60)))
    calm = calmed(samples, 1.5)
    for line, middle, radius, most in ((0, 60, 40, 0.12), (1, 10, 1.6, 0.15)):
        off = np.linalg.norm(calm.points[samples.owner == line] - middle, axis=1) - radius
        assert np.abs(off).max() < most


@pytest.mark.parametrize("tips", [4, 5, 7])
def test_corners_of_a_star_are_found_where_its_sides_meet(tips):
    ring = star(50, 50, 34, tips)
    corners = find_corners(sample(lines_of(ring, circle(120, 40, 20))), 1.0)
    assert len(corners.at) == 2 * tips
    away = np.linalg.norm(ring[:, None] - corners.position[None], axis=2)
    assert away.min(axis=1).max() < 0.05
    assert len(set(away.argmin(axis=1).tolist())) == 2 * tips


def test_a_circle_has_no_corner_however_small_the_scale():
    for scale in (0.5, 1.0, 2.0):
        assert len(find_corners(sample(lines_of(circle(40, 40, 25))), scale).at) == 0


def test_corners_come_in_the_order_of_their_samples():
    corners = find_corners(sample(lines_of(star(50, 50, 34, 5), star(140, 60, 30, 6, 0.5))), 1.0)
    assert (np.diff(corners.at) > 0).all()
    kept = corners.chosen(np.arange(len(corners.at)) % 2 == 0)
    assert np.array_equal(kept.position, corners.position[::2])
