import numpy as np
import pytest
import shapely

from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.drawn import Drawn, Stroke, non_zero
from drelo.core.outline.outline import Outline, bounds, even_odd

KAPPA = 4 / 3 * (np.sqrt(2) - 1)


def circle(radius: float, x: float = 0.0, y: float = 0.0) -> Contour:
    curves = []
    for i in range(4):
        a, b = i * np.pi / 2, (i + 1) * np.pi / 2
        p, q = np.array([np.cos(a), np.sin(a)]), np.array([np.cos(b), np.sin(b)])
        curves.append([p, p + KAPPA * np.array([-p[1], p[0]]), q - KAPPA * np.array([-q[1], q[0]]), q])
    return Contour(np.array(curves) * radius + np.array([x, y]), np.zeros(4, bool))


def test_area_of_cubics_is_exact():
    round_one = circle(10)
    fine = shapely.Polygon(round_one.flattened(1e-7)).area
    assert round_one.area == pytest.approx(fine, rel=1e-6)
    square = polygon(np.array([[0, 0], [4, 0], [4, 3], [0, 3.0]]))
    assert square.area == pytest.approx(12)


def test_bounds_are_tight_between_nodes():
    turned = circle(10, 3, 4)
    spun = Contour((turned.curves - [3, 4]) @ np.array([[0.8, 0.6], [-0.6, 0.8]]) + [3, 4], turned.straight)
    assert spun.bounds == pytest.approx((-7, -6, 13, 14), abs=0.01)


@pytest.mark.parametrize("tolerance", [0.5, 0.05, 0.005, 0.0005])
def test_flattening_stays_within_tolerance(tolerance):
    line = shapely.Polygon(circle(40).flattened(tolerance)).exterior
    truth = shapely.points(circle(40).flattened(1e-6))
    assert shapely.distance(truth, line).max() <= tolerance


def test_lines_are_not_divided():
    assert len(polygon(np.array([[0, 0], [400, 0], [400, 300.0]])).flattened(1e-6)) == 3


def test_transform_scales_moves_and_mirrors():
    outline = Outline(circle(10), (circle(4),))
    moved = outline.transformed(2, 5, 7, flip_y=True)
    assert moved.area == pytest.approx(4 * outline.area)
    assert bounds([moved]) == pytest.approx((-15, -13, 25, 27), abs=0.01)


def test_path_data_uses_only_the_promised_letters():
    data = Outline(circle(10), (polygon(np.array([[0, 0], [0, 2], [2, 2.0]])),)).path_data()
    assert set(data) <= set("MLCZ0123456789.- ")
    assert data.count("M") == data.count("Z") == 2


def test_figure_eights_are_cleaned_by_the_rule():
    eight = np.array([[0, 0], [10, 10], [10, 0], [0, 10.0]])
    assert even_odd([eight]).area == pytest.approx(50)
    assert non_zero([eight]).area == pytest.approx(50)
    twice = np.array([[0, 0], [10, 0], [10, 10], [0, 10], [0, 0], [10, 0], [10, 10], [0, 10.0]])
    assert non_zero([twice]).area == pytest.approx(100)
    nested = [np.array([[0, 0], [10, 0], [10, 10], [0, 10.0]]), np.array([[2, 2], [4, 2], [4, 4], [2, 4.0]])]
    assert even_odd(nested).area == pytest.approx(96)
    assert non_zero(nested).area == pytest.approx(100)
    assert non_zero([nested[0], nested[1][::-1]]).area == pytest.approx(96)


@pytest.mark.parametrize(("cap", "extra"), [("flat", 0), ("square", 4), ("round", np.pi)])
def test_strokes_become_areas(cap, extra):
    line = Contour(np.array([[[0, 0], [3, 0], [6, 0], [9, 0.0]]]), np.array([True]), closed=False)
    area = Drawn((line,), "#000000", stroke=Stroke(2, cap, "mitre")).flattened(0.0005).area
    assert area == pytest.approx(18 + extra, rel=1e-3)
