"""How much of every pixel closed lines cover."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.trace.seen.coverage import between, between_mixed, coverage, mixed

WIDTH, HEIGHT = 47, 21
places = st.tuples(st.floats(-3, WIDTH + 3), st.floats(-3, HEIGHT + 3))
triangles = st.lists(places, min_size=3, max_size=3).filter(lambda p: abs(shapely.Polygon(p).area) > 1e-3)


def edges_of(ring):
    """Directed so that what is inside lies to the left as seen on the screen, where y points down."""
    points = np.asarray(ring, float)
    if shapely.LinearRing(points).is_ccw:
        points = points[::-1]
    return points, np.roll(points, -1, axis=0)


def plain(ring):
    """The same by cutting every pixel with the shape."""
    x, y = np.meshgrid(np.arange(WIDTH), np.arange(HEIGHT))
    pixels = shapely.box(x, y, x + 1, y + 1)
    return shapely.area(shapely.intersection(pixels, shapely.Polygon(ring)))


@given(triangles)
def test_coverage_is_the_area_in_every_pixel(ring):
    assert coverage(*edges_of(ring), WIDTH, HEIGHT) == pytest.approx(plain(ring), abs=1e-5)


@given(triangles)
def test_a_shape_and_the_way_back_round_it_cover_nothing(ring):
    starts, ends = edges_of(ring)
    both = coverage(np.concatenate([starts, ends]), np.concatenate([ends, starts]), WIDTH, HEIGHT)
    assert np.abs(both).max() < 1e-5


@given(triangles, triangles)
def test_what_lies_over_each_other_adds_up(one, other):
    starts, ends = (np.concatenate(pair) for pair in zip(edges_of(one), edges_of(other), strict=True))
    assert coverage(starts, ends, WIDTH, HEIGHT) == pytest.approx(plain(one) + plain(other), abs=1e-5)


@given(triangles)
def test_old_memory_leaves_no_trace(ring):
    starts, ends = edges_of(ring)
    steps = np.tile([1.0, -0.5, 3.0], (len(starts), 1))
    used = np.random.default_rng(1).normal(size=(HEIGHT, WIDTH, 3)).astype(np.float32)
    fresh = mixed(starts, ends, steps, WIDTH, HEIGHT)
    assert np.array_equal(mixed(starts, ends, steps, WIDTH, HEIGHT, used), fresh)
    assert fresh == pytest.approx(plain(ring)[..., None] * [1.0, -0.5, 3.0], abs=1e-4)


@given(st.floats(0.6, WIDTH - 0.6), st.floats(0.6, HEIGHT - 0.6))
def test_a_slope_is_read_as_it_is_between_pixels(x, y):
    columns, rows = np.meshgrid(np.arange(WIDTH) + 0.5, np.arange(HEIGHT) + 0.5)
    slope = (0.3 * columns - 0.7 * rows + 2).astype(np.float32)
    assert between(slope, np.array([[x, y]])) == pytest.approx([0.3 * x - 0.7 * y + 2], abs=1e-4)


def test_beyond_a_picture_there_is_nothing_and_colours_go_on():
    field = np.full((HEIGHT, WIDTH), 0.8, np.float32)
    outside = np.array([[-4.0, 5.0], [WIDTH + 2.0, 5.0], [5.0, -2.0], [5.0, HEIGHT + 9.0]])
    assert between(field, outside).tolist() == [0, 0, 0, 0]
    one, zero = np.tile([1.0, 0.0], (4, 1)), np.tile([0.0, 0.0], (4, 1))
    assert between_mixed(np.stack([field, field], axis=2), outside, one, zero) == pytest.approx(0.8)


@given(st.floats(0, 1))
def test_a_mixture_of_two_colours_is_read_as_its_share(share):
    one, zero = np.array([[0.9, 0.1, 0.4]]), np.array([[0.2, 0.3, 0.3]])
    field = np.tile((share * one + (1 - share) * zero).astype(np.float32), (HEIGHT, WIDTH, 1)).reshape(HEIGHT, WIDTH, 3)
    assert between_mixed(field, np.array([[7.2, 9.9]]), one, zero) == pytest.approx([share], abs=1e-5)
