"""Pieces packed by their outlines: apart, on the bed, each once, and tighter than by their boxes."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from rectpack import newPacker
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.rehearsal.nesting import Place, nested

BED = shapely.box(0, 0, 220, 220)


def placed(shape: BaseGeometry, place: Place) -> BaseGeometry:
    return affinity.translate(affinity.rotate(shape, place.turn, origin=(0, 0), use_radians=True), place.x, place.y)


def holds(shapes: list[BaseGeometry], places: list[Place], bed: BaseGeometry, spacing: float) -> None:
    laid = [placed(shape, place) for shape, place in zip(shapes, places, strict=True)]
    for shape in laid:
        assert shapely.buffer(bed, 1e-6).contains(shape)
    for (one, a), (other, b) in itertools.combinations(zip(laid, places, strict=True), 2):
        if a.bed == b.bed:
            assert one.distance(other) >= spacing - 1e-9


def crescent(size: float) -> BaseGeometry:
    disc = shapely.Point(0, 0).buffer(size / 2)
    return disc - affinity.translate(disc, 0.4 * size, 0)


def wedge(width: float, depth: float) -> BaseGeometry:
    return shapely.Polygon([(0, 0), (width, 0), (0, depth)])


MIXED = [
    *(wedge(70 - 3 * k, 90 - 4 * k) for k in range(10)),
    *(crescent(60 + 2 * k) for k in range(10)),
    *(shapely.Point(0, 0).buffer(20 + k) for k in range(5)),
    *(shapely.union_all([shapely.box(0, 0, 60, 14), shapely.box(0, 0, 14, 50 + 5 * k)]) for k in range(5)),
]


sides = st.floats(5, 90)


@settings(max_examples=15)
@given(
    st.lists(st.tuples(st.floats(5, 90), st.floats(5, 90), st.booleans()), min_size=1, max_size=12), st.floats(0, 10)
)
def test_nothing_overlaps_or_stands_out(sizes, spacing):
    shapes = [wedge(w, d) if pointed else shapely.box(0, 0, w, d) for w, d, pointed in sizes]
    places = nested(shapes, BED, spacing)
    assert places is not None
    holds(shapes, places, BED, spacing)


def test_a_round_bed_is_kept_to():
    bed = shapely.Point(130, 130).buffer(130, quad_segs=64)
    shapes = [shapely.box(-10, -20, 40, 20)] * 14
    places = nested(shapes, bed, 5)
    assert places is not None
    holds(shapes, places, bed, 5)


def test_what_fits_on_no_bed_is_said():
    assert nested([shapely.box(0, 0, 230, 10)], BED, 5, turns=1) is None
    # Turned it goes along the diagonal.
    assert nested([shapely.box(0, 0, 250, 10)], BED, 5) is not None


def test_wedges_lie_in_pairs():
    shapes = [wedge(84, 84)] * 8
    places = nested(shapes, BED, 4)
    assert places is not None
    holds(shapes, places, BED, 4)
    assert {place.bed for place in places} == {0}


def test_mixed_outlines_take_fewer_beds_than_their_boxes_or_fill_them_better():
    spacing = 5.0
    places = nested(MIXED, BED, spacing)
    assert places is not None
    holds(MIXED, places, BED, spacing)
    packer = newPacker(rotation=True)
    for number, shape in enumerate(MIXED):
        x0, y0, x1, y1 = shape.bounds
        packer.add_rect(math.ceil(x1 - x0 + spacing), math.ceil(y1 - y0 + spacing), number)
    packer.add_bin(225, 225, count=float("inf"))
    packer.pack()
    ours, boxes = max(place.bed for place in places) + 1, len(packer)
    filled = [sum(s.area for s, p in zip(MIXED, places, strict=True) if p.bed == bed) for bed in range(ours)]
    theirs = [sum(MIXED[rect.rid].area for rect in one) for one in packer]
    assert ours < boxes or np.mean(filled[:-1]) >= 1.15 * np.mean(theirs[:-1])


@pytest.mark.parametrize("count", [1, 5])
def test_the_same_pieces_are_laid_the_same_way(count):
    shapes = MIXED[:count]
    assert nested(shapes, BED, 3) == nested(shapes, BED, 3)
