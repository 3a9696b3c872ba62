"""Times against closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh

from drelo.core.rehearsal.lines import Line, packed
from drelo.core.rehearsal.settings import ByHand, Changer, Manner, Printer, Speeds, Spool
from drelo.core.rehearsal.timing import line_times, move_times
from drelo.core.rehearsal.whole import rehearse
from drelo.core.solid.mesh import Mesh

SPEED, ACCELERATION, CORNER = 60.0, 1500.0, 8.0


def seconds(points, speed=SPEED) -> float:
    lines = packed([Line("skin", np.array(points, np.float64), 0.44)])
    return float(line_times(lines, np.array([speed]), ACCELERATION, CORNER)[0])


@pytest.mark.parametrize("length", [0.2, 1.0, 2.4, 30.0, 200.0])
def test_a_straight_line(length):
    reach = SPEED**2 / ACCELERATION
    exact = length / SPEED + SPEED / ACCELERATION if length > reach else 2 * math.sqrt(length / ACCELERATION)
    assert seconds([(0, 0), (length, 0)]) == pytest.approx(exact, rel=1e-9)
    assert move_times(np.array([length]), SPEED, ACCELERATION)[0] == pytest.approx(exact, rel=1e-9)


def test_a_line_in_pieces_takes_as_long_as_whole():
    whole = seconds([(0, 0), (30, 0)])
    assert seconds([(30 * k / 500, 0) for k in range(501)]) == pytest.approx(whole, rel=1e-9)


def test_a_square_slows_down_at_its_corners():
    side = 20.0

    def from_to(into: float, out: float) -> float:
        rise, fall = (SPEED**2 - into**2) / (2 * ACCELERATION), (SPEED**2 - out**2) / (2 * ACCELERATION)
        return (2 * SPEED - into - out) / ACCELERATION + (side - rise - fall) / SPEED

    exact = from_to(0, CORNER) + 2 * from_to(CORNER, CORNER) + from_to(CORNER, 0)
    found = seconds([(0, 0), (side, 0), (side, side), (0, side), (0, 0)])
    assert found == pytest.approx(exact, rel=1e-9)


def test_a_fine_circle_is_gone_round_at_full_speed():
    radius, count = 20.0, 720
    turns = math.tau * np.arange(count + 1) / count
    points = radius * np.stack([np.cos(turns), np.sin(turns)], 1)
    exact = math.tau * radius / SPEED + SPEED / ACCELERATION
    assert seconds(points) == pytest.approx(exact, rel=1e-4)


def test_a_hairpin_is_slower_than_a_right_angle():
    back = seconds([(0, 0), (20, 0), (0, 0.001)])
    square = seconds([(0, 0), (20, 0), (20, 20)])
    assert back > square


PLAIN = Printer(
    speeds=Speeds(outer_wall=60, inner_wall=60, skin=60, infill=60, first_layer=60, travel=200),
    acceleration=3000,
    least_layer_time=0,
    warm_up=0,
    retraction_time=0,
    flow=100,
)


def cube(side: float, at=(0.0, 0.0, 0.0)) -> Mesh:
    solid = trimesh.creation.box([side] * 3)
    solid.apply_translation(np.array(at) + side / 2)
    return Mesh(solid.vertices.astype(np.float32), solid.faces.astype(np.int32))


def test_a_cube_takes_its_length_over_its_speed_and_the_corners():
    found = rehearse([cube(20, (-10, -10, 0))], [Spool()], PLAIN, Manner(infill=1, layer=0.2))
    line = PLAIN.line_width
    assert len(found.layers) == 100
    assert found.uses[0].volume == pytest.approx(8000, rel=0.02)
    # Per layer: two walls, then lines along the diagonal, each from rest to rest, one line's width apart.
    inner = 20 - 4 * line
    walls = sum(_square(20 - (2 * k + 1) * line) for k in range(2))
    # The rows of every other layer lie on one grid, which runs through the cube's middle.
    rows = (np.arange(-60, 60) + 0.5) * line
    lengths = np.maximum(inner * math.sqrt(2) - 2 * abs(rows), 0.0)
    infill = move_times(lengths[lengths > line / 4], 60, PLAIN.acceleration).sum()
    moves = move_times(np.full((lengths > line / 4).sum(), line * math.sqrt(2)), 200, PLAIN.acceleration).sum()
    assert found.seconds == pytest.approx(100 * (walls + infill + moves), rel=0.01)


def _square(side: float) -> float:
    corner, top, a = PLAIN.corner_speed, 60.0, PLAIN.acceleration

    def one(into: float, out: float) -> float:
        way = (2 * top**2 - into**2 - out**2) / (2 * a)
        return (2 * top - into - out) / a + (side - way) / top

    return one(0, corner) + 2 * one(corner, corner) + one(corner, 0)


def test_flow_and_the_least_time_of_a_layer_bound_it():
    quick = rehearse([cube(10)], [Spool()], PLAIN, Manner(infill=1))
    narrow = rehearse([cube(10)], [Spool()], PLAIN.model_copy(update={"flow": 1.0}), Manner(infill=1))
    assert narrow.seconds > sum(u.volume for u in narrow.uses) / 1.0
    assert narrow.seconds > 3 * quick.seconds
    slow = rehearse([cube(10)], [Spool()], PLAIN.model_copy(update={"least_layer_time": 60.0}), Manner(infill=1))
    assert slow.seconds == pytest.approx(50 * 60)


def test_warming_up_changes_and_beds_are_counted():
    meshes = [cube(10), cube(10, (0, 0, 10))]
    hand = PLAIN.model_copy(update={"warm_up": 120.0, "change": ByHand(minutes=5)})
    plain = rehearse(meshes, [Spool()] * 2, PLAIN.model_copy(update={"change": ByHand(minutes=0)}), Manner())
    found = rehearse(meshes, [Spool()] * 2, hand, Manner())
    assert found.seconds == pytest.approx(plain.seconds + 120 + 300)
    two = rehearse(meshes, [Spool()] * 2, hand, Manner(), loads=(2, 1))
    assert two.beds[1] == pytest.approx(found.seconds)
    assert two.uses[0].volume == pytest.approx(3 * found.uses[0].volume)
    changer = PLAIN.model_copy(update={"change": Changer(seconds=30, purged=100)})
    purged = rehearse(meshes, [Spool()] * 2, changer, Manner())
    assert [use.purged for use in purged.uses] == [0, 100]


def test_material_is_told_in_grams_metres_and_money():
    spool = Spool(density=1.2, diameter=1.75, price=30, left=5)
    use = rehearse([cube(20)], [spool], PLAIN, Manner(infill=1)).uses[0]
    assert use.grams == pytest.approx(use.volume / 1000 * 1.2)
    assert use.metres == pytest.approx(use.volume / (math.pi * 0.875**2) / 1000)
    assert use.price == pytest.approx(use.grams * 0.03)
    assert use.enough is False
