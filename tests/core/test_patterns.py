"""Where ink and paper meet between pixels."""

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from drelo.core.picture.hairlines import hairlines
from drelo.core.picture.patterns import patterns

masks = st.tuples(st.integers(2, 9), st.integers(2, 27)).flatmap(lambda shape: arrays(np.bool_, shape))
blots = st.integers(0, 2**32 - 1).map(
    lambda seed: np.asarray(cv2.GaussianBlur(np.random.default_rng(seed).normal(size=(40, 53)), (0, 0), 1.6) > 0)
)


@given(masks)
def test_every_cell_has_the_pattern_of_its_corners(ink):
    code, cells, count = patterns(ink)
    whole = ink.astype(int)
    plain = whole[:-1, :-1] + 2 * whole[:-1, 1:] + 4 * whole[1:, 1:] + 8 * whole[1:, :-1]
    plain[plain == 15] = 0
    assert np.array_equal(code, plain)
    assert np.array_equal(cells, np.flatnonzero(plain))
    # A saddle holds two lines.
    assert count == np.count_nonzero(plain) + np.count_nonzero((plain == 5) | (plain == 10))


@given(masks)
def test_patterns_of_the_opposite_lie_in_the_same_cells(ink):
    assert np.array_equal(patterns(ink)[1], patterns(~ink)[1])


@given(blots)
def test_lines_of_ink_and_of_paper_change_places_when_the_picture_is_inverted(bits):
    """Away from the border, beyond which there is paper."""
    ink, gaps = hairlines(np.pad(bits, 3, mode="edge"))
    other_gaps, other_ink = hairlines(~np.pad(bits, 3, mode="edge"))
    inner = (slice(6, -6), slice(6, -6))
    assert np.array_equal(ink[inner], other_ink[inner])
    assert np.array_equal(gaps[inner], other_gaps[inner])


@given(blots)
def test_no_pixel_of_a_line_lies_in_a_block_of_its_kind(bits):
    ink, gaps = hairlines(bits)
    for kind, line in ((bits, ink), (~bits, gaps)):
        assert not (line & ~kind).any()
        blocks = kind[:-1, :-1] & kind[1:, :-1] & kind[:-1, 1:] & kind[1:, 1:]
        for down in (0, 1):
            for right in (0, 1):
                rows, columns = slice(down, down + len(blocks)), slice(right, right + blocks.shape[1])
                assert not (line[rows, columns] & blocks).any()


def test_a_strip_of_paper_along_the_border_goes_on_beyond_it():
    bits = np.zeros((40, 60), bool)
    bits[1:20, 10:50] = True
    assert not hairlines(bits)[1].any()


def test_a_line_of_ink_along_the_border_is_one():
    bits = np.zeros((40, 60), bool)
    bits[0, 5:50] = bits[10:30, 59] = True
    ink, gaps = hairlines(bits)
    assert np.array_equal(ink, bits)
    assert not gaps.any()
