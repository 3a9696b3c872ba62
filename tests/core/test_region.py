"""Regions recognised again; bases under them; what stands where."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.form.base import Base, base_plate, grown, quarter_steps, smallest_circle, without_holes
from drelo.core.form.relief import INLAY_DEPTH, Part, relief
from drelo.core.region.identity import footprint, recognise
from drelo.core.solid.raising import arrange_design, raise_body
from drelo.core.solid.seal import check_seal
from tests.refusals import refused

FINE = 0.008


def block(x: float, y: float, w: float = 10.0, h: float = 10.0) -> shapely.Polygon:
    return shapely.box(x, y, x + w, y + h)


# Identity


def test_regions_keep_their_names_when_all_move_a_little():
    before = [block(0, 0), block(20, 0), block(40, 0, 3, 3)]
    after = [shapely.affinity.translate(s, 0.6, -0.4) for s in (before[2], before[0], before[1])]
    assert recognise([footprint(s) for s in before], after) == [1, 2, 0]


def test_what_is_gone_is_not_given_to_another():
    known = [footprint(block(0, 0)), footprint(block(20, 0))]
    assert recognise(known, [block(20, 0)]) == [None, 0]
    assert recognise(known, []) == [None, None]


def test_no_shape_is_given_twice():
    known = [footprint(block(0, 0)), footprint(block(0.5, 0.5))]
    found = recognise(known, [block(0, 0), block(60, 60)])
    assert sorted(found, key=str) == [0, None]


def test_a_ring_and_its_island_are_told_apart():
    ring, island = block(0, 0, 30, 30) - block(5, 5, 20, 20), block(10, 10)
    assert recognise([footprint(island), footprint(ring)], [ring, island]) == [1, 0]


@given(st.integers(0, 2**31 - 1), st.floats(-0.8, 0.8), st.floats(-0.8, 0.8))
def test_recognition_does_not_depend_on_the_order_of_shapes(seed, dx, dy):
    random = np.random.default_rng(seed)
    before = [block(15 * (k % 5), 15 * (k // 5), *random.uniform(5, 12, 2)) for k in range(12)]
    order = random.permutation(12)
    after = [shapely.affinity.translate(before[k], dx, dy) for k in order]
    found = recognise([footprint(s) for s in before], after)
    assert [order[f] for f in found] == list(range(12))


# Bases


@pytest.mark.parametrize(("radius", "tolerance"), [(1, 0.05), (10, 0.008), (200, 0.002)])
def test_arcs_of_chords_stay_within_tolerance(radius, tolerance):
    steps = quarter_steps(radius, tolerance)
    assert radius * (1 - np.cos(np.pi / 4 / steps)) <= tolerance
    assert radius * (1 - np.cos(np.pi / 4 / (steps - 1))) > tolerance or steps == 2


def test_growth_is_round_and_nothing_grows_by_nought():
    art = block(0, 0)
    assert grown(art, 0, FINE).equals(art)
    wide = grown(art, 3, FINE)
    assert wide.area == pytest.approx(100 + 4 * 30 + np.pi * 9, rel=1e-3)
    assert wide.bounds == pytest.approx((-3, -3, 13, 13))


def test_holes_are_filled_also_those_that_growth_closes():
    comb = shapely.union_all([block(0, 0, 30, 5), *(block(8 * k, 0, 4, 30) for k in range(4))])
    closed = base_plate(Base("outline", margin=3), shapely.union(comb, block(0, 28, 30, 4)), FINE)
    assert len(without_holes(closed).interiors) == 0
    assert closed.equals(without_holes(closed))


@pytest.mark.parametrize(
    ("base", "area"),
    [
        (Base("rectangle", margin=2), 24 * 14),
        (Base("rectangle", margin=2, corner_radius=3), 24 * 14 - (4 - np.pi) * 9),
        (Base("circle", margin=1), np.pi * (np.hypot(10, 5) + 1) ** 2),
        (Base("none"), 0),
    ],
)
def test_bases_have_their_area(base, area):
    plate = base_plate(base, block(0, 0, 20, 10), FINE)
    assert plate.area == pytest.approx(area, rel=2e-3, abs=1e-9)


def test_a_corner_radius_is_no_larger_than_the_plate():
    plate = base_plate(Base("rectangle", margin=0, corner_radius=50), block(0, 0, 20, 10), FINE)
    assert plate.bounds == pytest.approx((0, 0, 20, 10), abs=1e-6)


def test_the_smallest_circle_holds_everything():
    art = shapely.union_all([block(0, 0), block(30, 12, 4, 4)])
    (x, y), radius = smallest_circle(art)
    far = np.hypot(*(shapely.get_coordinates(art) - [x, y]).T)
    assert far.max() == pytest.approx(radius, rel=1e-9)


@pytest.mark.parametrize(
    ("base", "field"),
    [
        (Base(margin=-1e5), "base.margin"),
        (Base(margin=float("nan")), "base.margin"),
        (Base(thickness=0), "base.thickness"),
        (Base(thickness=1e9), "base.thickness"),
        (Base(corner_radius=-2), "base.corner_radius"),
    ],
)
def test_numbers_out_of_range_are_refused_with_their_field(base, field):
    with pytest.raises(Refusal) as refusal:
        base_plate(base, block(0, 0), FINE)
    assert refusal.value.field == field


# Reliefs as solids

BASE = Base("rectangle", margin=5, thickness=2)


def volumes(*parts: Part, base: Base = BASE) -> tuple[float, list[float]]:
    design = relief(parts, base, FINE)
    arrangement = arrange_design(design)
    whole = raise_body(design, arrangement)
    assert check_seal(whole).sealed
    bodies = [raise_body(design, arrangement, i) for i in range(len(design.filaments))]
    assert all(check_seal(b).sealed for b in bodies)
    return whole.volume, [b.volume for b in bodies]


def part(height, colour: str = "#c8553d", shape=None) -> Part:
    return Part(shape or block(0, 0), height, colour, "block")


def test_a_raised_block_stands_on_its_base():
    whole, (base, raised) = volumes(part(1.5))
    assert base == pytest.approx(20 * 20 * 2, rel=1e-6)
    assert raised == pytest.approx(100 * 1.5, rel=1e-6)
    assert whole == pytest.approx(base + raised, rel=1e-6)


def test_a_sunk_block_takes_from_the_base():
    whole, bodies = volumes(part(-0.75))
    assert whole == pytest.approx(20 * 20 * 2 - 75, rel=1e-6)
    assert sum(bodies) == pytest.approx(whole, rel=1e-6)


def test_a_flush_block_is_an_inlay():
    whole, (base, inlay) = volumes(part(0))
    assert whole == pytest.approx(800, rel=1e-6)
    assert inlay == pytest.approx(100 * INLAY_DEPTH, rel=1e-6)
    assert base == pytest.approx(800 - 100 * INLAY_DEPTH, rel=1e-6)


def test_through_cuts_a_hole():
    whole, _ = volumes(part("through"))
    assert whole == pytest.approx((400 - 100) * 2, rel=1e-6)


def test_the_later_part_covers_the_earlier():
    whole, (_, one, two) = volumes(part(1.0), part(2.0, "#1d3557", block(5, 0)))
    assert one == pytest.approx(50 * 1.0, rel=1e-6)
    assert two == pytest.approx(100 * 2.0, rel=1e-6)
    assert whole == pytest.approx(25 * 20 * 2 + 50 + 200, rel=1e-6)


def test_without_a_base_parts_stand_on_the_plate():
    whole, bodies = volumes(part(3.0), base=Base("none"))
    assert whole == pytest.approx(300, rel=1e-6)
    assert len(bodies) == 1


@pytest.mark.parametrize(
    ("height", "base", "field"),
    [
        (-2.0, BASE, "heights"),
        (-3.0, BASE, "heights"),
        (-0.5, Base("none"), "heights"),
        (float("nan"), BASE, "heights"),
        (1e9, BASE, "heights"),
    ],
)
def test_heights_that_cannot_be_are_refused(height, base, field):
    with pytest.raises(Refusal) as refusal:
        relief([part(height)], base, FINE)
    assert refusal.value.field == field


def test_loose_parts_are_said():
    design = relief([part(1.0), part(1.0, shape=block(40, 0))], Base("none"), FINE)
    assert any("part" in r.text for r in design.remarks)


def test_empty_art_is_refused():
    with refused("empty"):
        relief([], BASE, FINE)


@given(st.lists(st.sampled_from([-0.8, 0.0, 0.4, 1.2, 1.2, "through"]), min_size=9, max_size=9))
def test_any_board_of_heights_is_sealed_and_exact(heights):
    parts = [part(h, shape=block(10 * (k % 3), 10 * (k // 3))) for k, h in enumerate(heights)]
    whole, _ = volumes(*parts, base=Base("rectangle", margin=4, thickness=2))
    flat = sum(100 * (0 if h == "through" else 2 + h) for h in heights)
    # Where heights meet in a point small patches part them; they are tiny.
    assert whole == pytest.approx(flat + (38 * 38 - 900) * 2, rel=2e-4)
