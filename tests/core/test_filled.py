"""Filled shapes among strokes keep outlines of their own, and strokes run into them."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
import shapely

from drelo.core.outline.contour import Contour
from drelo.core.picture.decode import Picture
from drelo.core.trace.modes import trace
from drelo.core.trace.settings import StrokeSettings
from drelo.core.trace.trace import Trace
from tests.core.test_skeleton import line, picture, sheet

STALK = [(150 + 20 * np.sin(t * 3), 290 - 270 * t) for t in np.linspace(0, 1, 60)]


def area(big: np.ndarray, shape: shapely.Polygon) -> np.ndarray:
    cv2.fillPoly(big, [np.round(shapely.get_coordinates(shape.exterior) * 8).astype(np.int32)], 255)
    return big


def leaf(x: float, y: float, angle: float) -> shapely.Polygon:
    """An almond 84 px long and 32 px wide, from its tip at x, y."""
    t = np.linspace(0, np.pi, 60)
    side = np.stack([42 * (1 - np.cos(t)), 16 * np.sin(t) ** 1.3], axis=1)
    ring = np.concatenate([side, (side * [1, -1])[::-1]])
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    return shapely.Polygon(ring @ turn + [x, y])


def leaves() -> list[shapely.Polygon]:
    places = ((0.3, -0.5), (0.5, np.pi + 0.5), (0.75, -0.6))
    return [leaf(150 + 20 * np.sin(t * 3), 290 - 270 * t, angle) for t, angle in places]


def plant() -> np.ndarray:
    big = line(sheet(300, 300), 5, *STALK)
    for one in leaves():
        area(big, one)
    return big


HULL = shapely.Polygon([(40, 200), (260, 200), (225, 250), (75, 250)])


def ship() -> np.ndarray:
    """A filled hull with a mast of 6 px and two ropes of 2 px."""
    big = line(line(sheet(300, 300), 6, (150, 205), (150, 30)), 2, (150, 35), (60, 203))
    return area(line(big, 2, (150, 35), (240, 203)), HULL)


def shape_of(found: Trace) -> shapely.Geometry:
    return shapely.union_all([o.flattened(0.05) for o in found.shapes])


def length(contour: Contour) -> float:
    return float(shapely.LineString(contour.flattened(0.05)).length)


def off(found: shapely.Geometry, truth: shapely.Geometry) -> float:
    """Share of the truth that is missing or too much."""
    return float(shapely.symmetric_difference(found, truth).area / truth.area)


def spoilt(big: np.ndarray, how: str) -> Picture:
    clean = picture(big)
    if how == "1-bit":
        return replace(clean, rgb=np.where(clean.rgb > 127, 255, 0).astype(np.uint8))
    if how == "noise":
        noise = np.random.default_rng(5).normal(0, 10, clean.rgb.shape[:2])[..., None]
        return replace(clean, rgb=np.clip(clean.rgb + noise, 0, 255).astype(np.uint8))
    return clean


@pytest.mark.parametrize("how", ["clean", "1-bit", "noise"])
def test_leaves_on_a_stalk_stay_leaves(how):
    found = trace(spoilt(plant(), how), StrokeSettings())
    assert len(found.shapes) == 3
    assert off(shape_of(found), shapely.union_all(leaves())) < 0.04
    # The stalk is there from end to end, as wide as it was drawn.
    stalk = shapely.union_all([shapely.LineString(n.contour.flattened(0.05)) for n in found.lines])
    alone = shapely.difference(shapely.LineString(STALK), shapely.union_all([s.buffer(6) for s in leaves()]))
    assert shapely.hausdorff_distance(alone, shapely.intersection(stalk, alone.buffer(3))) < 3
    assert all(n.width == pytest.approx(5, abs=0.4) for n in found.lines)
    assert found.check is not None
    assert not found.check.off
    assert found.check.crossings == 0


@pytest.mark.parametrize("how", ["clean", "1-bit", "noise"])
def test_masts_and_ropes_run_into_a_hull(how):
    found = trace(spoilt(ship(), how), StrokeSettings())
    assert off(shape_of(found), HULL) < 0.02
    widths = sorted(round(n.width) for n in found.lines if length(n.contour) > 100)
    assert widths == [2, 2, 6]
    # All of it is one shape, so no rope hangs in the air.
    assert len(found.outlines) == 1
    assert found.check is not None
    assert not found.check.off


def test_a_filled_shape_alone_is_a_shape_and_no_line():
    found = trace(picture(area(sheet(), shapely.Polygon([(100, 20), (170, 140), (30, 140)]))), StrokeSettings())
    assert not found.lines
    assert [len(o.outer) for o in found.shapes] == [3]
    assert found.nodes == 3
    assert len(found.outlines) == 1


def test_what_a_thick_uneven_pen_draws_is_no_filled_shape():
    big = sheet(300, 200)
    for k, (a, b) in enumerate((((20, 40), (280, 70)), ((30, 150), (270, 130)), ((150, 10), (160, 190)))):
        run = shapely.LineString([a, b])
        for s in np.linspace(0, 1, 300):
            x, y = run.interpolate(s, normalized=True).coords[0]
            cv2.circle(big, (round(8 * x), round(8 * y)), round(8 * (7 + np.sin(30 * s + k))), 255, -1)
    found = trace(picture(big), StrokeSettings())
    assert not found.shapes
    assert len(found.lines) == 3


def test_filled_shapes_grow_with_an_enlarged_trace():
    found = trace(picture(ship()), StrokeSettings())
    twice = found.enlarged(2.0, (3.0, 4.0))
    assert twice.shapes[0].area == pytest.approx(4 * found.shapes[0].area)
    assert twice.shapes[0].outer.bounds[0] == pytest.approx(2 * found.shapes[0].outer.bounds[0] + 3)


def test_a_part_of_a_picture_has_its_filled_shapes_where_they_are():
    found = trace(picture(ship()), StrokeSettings(area=(20, 150, 260, 120)))
    assert off(shape_of(found), HULL) < 0.02


def test_holes_smaller_than_a_speck_are_filled_in_filled_shapes_too():
    big = ship()
    cv2.circle(big, (150 * 8, 225 * 8), 6 * 8, 0, -1)
    holes = [sum(len(o.holes) for o in trace(picture(big), StrokeSettings(speck=s)).shapes) for s in (6, 200)]
    assert holes == [1, 0]
