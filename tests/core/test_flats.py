"""Pictures without antialiasing: of every pixel the colour that covers most of it."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.trace.corners.corners import find_corners
from drelo.core.trace.corners.tips import there_and_back, with_tips
from drelo.core.trace.fit.curves import Curves, probes, together
from drelo.core.trace.hard.flats import Flats
from drelo.core.trace.seen.samples import sample
from tests.core.hard_edges import bits_of, box, curves_of

SIZE = (60, 80)


def two_boxes(gap: float) -> tuple[Curves, Flats]:
    """A box of label 1 and one of label 2 on label 0, so many px beside each other."""
    one, other = box(25, 30, 20, 20, 0.0), box(45 + gap, 30, 20, 20, 0.0)
    labels = bits_of(one, SIZE).astype(np.int16) + 2 * bits_of(other, SIZE).astype(np.int16)
    second = curves_of(other)
    curves = together(curves_of(one), replace(second, line=second.line + 1))
    return curves, Flats(labels, np.array([1, 2]), np.array([0, 0]))


@given(st.floats(0.0, 8.0))
def test_shares_are_what_each_label_covers(gap):
    curves, flats = two_boxes(gap)
    shares = flats.shares(curves)
    assert shares.shape == (*SIZE, 2)
    assert shares.sum(axis=(0, 1)) == pytest.approx([400, 400], abs=1e-2)
    assert shares.min() > -1e-5
    assert shares.sum(axis=2).max() < 1 + 1e-5
    assert shares[30, 20] == pytest.approx([1, 0], abs=1e-5)


def test_memory_that_is_handed_on_is_written_over():
    curves, flats = two_boxes(3.0)
    fresh = flats.shares(curves)
    assert np.array_equal(flats.shares(curves, np.full_like(fresh, 7)), fresh)


def test_what_is_wrong_is_half_of_what_another_label_has_more():
    curves, flats = two_boxes(4.0)
    assert len(flats.wrong(curves).at) == 0
    labels = flats.labels.copy()
    labels[30, 20], labels[10, 10] = 2, 1
    wrong = replace(flats, labels=labels).wrong(curves)
    assert wrong.at.tolist() == [[10.5, 10.5], [20.5, 30.5]]
    assert wrong.amount == pytest.approx([0.5, 0.5], abs=1e-5)


@given(st.floats(0.2, 0.45))
def test_points_beside_a_pixel_that_is_another_s_lack_what_it_has(share):
    """The first box reaches into pixels of label 0 by a share that is no half, or by more."""
    curves, flats = two_boxes(6.0)
    for by, sign in ((share, 0), (1 - share, -1)):
        wider = replace(curves, node=curves.node + np.where(curves.node[:, :1] == 35, [by, 0], 0))
        found = probes(wider, 0.5, 6)
        side = (found.at[:, 0] > 35) & (np.abs(found.at[:, 1] - 30) < 9)
        side &= wider.line[found.segment] == 0
        lacks = flats.lacks(found, wider.line[found.segment], flats.shares(wider), 0.02)[side]
        assert len(lacks) > 10
        assert lacks == pytest.approx(sign * (by - 0.5 + 0.02), abs=1e-4)


def test_pixels_of_a_third_label_say_nothing():
    curves, flats = two_boxes(6.0)
    labels = flats.labels.copy()
    labels[labels == 0] = 3
    found = probes(curves, 0.5, 6)
    outside = found.at - 0.3 * found.normal
    beside = replace(found, at=outside)
    other = replace(flats, labels=labels, right=np.array([0, 0]))
    line = curves.line[found.segment]
    assert not other.lacks(beside, line, other.shares(curves), 0.1).any()


@pytest.mark.parametrize(("leg", "scale"), [(2.5, 0.6), (3.0, 0.6), (3.5, 1.0), (5.0, 1.0)])
def test_a_corner_is_found_near_the_tip_of_an_open_line(leg, scale):
    bend = np.array([(40.0 - t, 20.0) for t in np.arange(0, 20, 0.25)][::-1])
    down = np.array([(40.0, 20.0 + t) for t in np.arange(0.25, leg + 0.01, 0.25)])
    samples = sample(there_and_back([np.concatenate([bend, down])], np.array([False])))
    closed = np.array([False])
    corners = with_tips(find_corners(samples, scale, closed), samples, closed)
    assert corners.position[1:-1] == pytest.approx(np.array([[40.0, 20.0]]), abs=0.3)
    tips = corners.position[[0, -1]]
    assert tips[np.argsort(tips[:, 0])] == pytest.approx(np.array([[20.25, 20], [40, 20 + leg]]), abs=0.3)
