"""The print that a stamp makes and the biscuit that a cutter cuts: how far they spread, and what closes."""

from __future__ import annotations

import io

import numpy as np
import pytest
import shapely
from PIL import Image

from drelo.core.form.outcome import NOTHING, Outcome, baked, printed
from drelo.formats.outcome_picture import outcome_picture
from tests.refusals import refused


def test_ink_spreads_by_what_was_typed():
    found = printed(shapely.box(0, 0, 20, 10), 0.3)
    assert found.shape.bounds == pytest.approx((-0.3, -0.3, 20.3, 10.3))
    assert found.places == 0
    assert printed(shapely.box(0, 0, 20, 10), 0).shape.area == 200


@pytest.mark.parametrize(("gap", "closes"), [(0.4, 1), (0.55, 1), (0.7, 0), (1.5, 0)])
def test_gaps_narrower_than_twice_the_spread_close(gap, closes):
    face = shapely.union_all([shapely.box(0, 0, 10, 10), shapely.box(10 + gap, 0, 20, 10)])
    found = printed(face, 0.3)
    assert found.places == closes
    if closes:
        assert found.closed.centroid.x == pytest.approx(10 + gap / 2, abs=0.05)
        assert found.closed.area == pytest.approx(gap * 10, rel=0.2)


def test_the_inside_of_a_small_letter_fills():
    ring = shapely.Point(0, 0).buffer(3) - shapely.Point(0, 0).buffer(0.25)
    large = shapely.Point(20, 0).buffer(3) - shapely.Point(20, 0).buffer(1)
    found = printed(shapely.union(ring, large), 0.3)
    assert found.places == 1
    assert found.closed.centroid.x == pytest.approx(0, abs=0.01)


def test_a_biscuit_rises_and_closes_in_on_its_marks():
    dough, mark = shapely.box(0, 0, 60, 40), shapely.box(10, 19, 50, 21)
    found = baked(dough, mark, 0.1)
    assert found.shape.bounds == pytest.approx((-3, -2, 63, 42))
    assert found.marks.bounds[3] - found.marks.bounds[1] < 2.2
    assert found.places == 0
    assert baked(dough, mark, 0).marks.area == mark.area


def test_biscuits_that_grow_into_each_other_are_told():
    two = shapely.union_all([shapely.box(0, 0, 30, 30), shapely.box(31, 0, 61, 30)])
    assert baked(two, NOTHING, 0.02).places == 0
    assert baked(two, NOTHING, 0.1).places == 1


def test_the_picture_has_its_size_and_its_colours():
    found = printed(shapely.union_all([shapely.box(0, 0, 10, 10), shapely.box(10.3, 0, 20, 10)]), 0.3)
    image = Image.open(io.BytesIO(outcome_picture(found, False, 254)))
    # 20.6 mm wide and 6 % of that on both sides, at ten pixels a mm.
    assert image.size == (round(20.6 * 1.12 * 10), round((10.6 + 20.6 * 0.12) * 10))
    pixels = np.asarray(image.convert("RGB")).astype(int)
    middle = pixels[image.size[1] // 2]
    assert (abs(middle - (0x23, 0x26, 0x2B)).max(axis=1) < 8).sum() > 190
    assert (abs(middle - (0xD9, 0x8A, 0x00)).max(axis=1) < 40).sum() in range(1, 7)
    with refused("nothing"):
        outcome_picture(Outcome(NOTHING, NOTHING, NOTHING), True, 300)
