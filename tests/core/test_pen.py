"""The pen that clings to edges, and its straight and curved stretches."""

import math

import numpy as np
import pytest
import shapely

from drelo.core.picture.decode import Picture
from drelo.core.trace.pen.cling import cling, edge_near
from drelo.core.trace.pen.pen import Stretch, pen_contour

CENTRE, RADIUS = (200.0, 180.0), 110.0


@pytest.fixture(scope="module", params=["clean", "noisy"])
def disc(request) -> Picture:
    y, x = np.mgrid[:380, :420] + 0.5
    grey = 255 - 200 * np.clip(RADIUS + 0.5 - np.hypot(x - CENTRE[0], y - CENTRE[1]), 0, 1)
    if request.param == "noisy":
        grey = grey - 20 + np.random.default_rng(5).normal(0, 10, grey.shape)
    return Picture(np.repeat(np.clip(grey, 0, 255).astype(np.uint8)[..., None], 3, axis=2), None, None, "image/png")


def on_rim(turn: float, off: float = 0.0) -> tuple[float, float]:
    angle = 2 * math.pi * turn
    return CENTRE[0] + (RADIUS + off) * math.cos(angle), CENTRE[1] + (RADIUS + off) * math.sin(angle)


def from_rim(points) -> np.ndarray:
    return np.abs(np.hypot(*(np.asarray(points) - CENTRE).T) - RADIUS)


def test_a_click_near_an_edge_goes_to_it(disc):
    assert from_rim([edge_near(disc, on_rim(0.1, off=4))])[0] < 1.0
    assert edge_near(disc, (20.0, 20.0), reach=3)[0] == pytest.approx(20, abs=4)


def test_the_line_runs_along_the_edge(disc):
    line = cling(disc, on_rim(0.02), on_rim(0.27))
    assert line[0] == pytest.approx(on_rim(0.02))
    assert line[-1] == pytest.approx(on_rim(0.27))
    off = from_rim(line)
    assert (off.mean(), off.max()) < (0.25, 1.0)
    assert np.linalg.norm(np.diff(line, axis=0), axis=1).max() < 2.0


def test_a_closed_line_is_a_few_fitted_curves(disc):
    clicks = [on_rim(i / 5, off=1.5 * (-1) ** i) for i in range(5)]
    contour = pen_contour(disc, clicks[0], [Stretch("edge", c) for c in clicks[1:]], True)
    assert contour.closed
    assert len(contour) <= 18
    off = from_rim(contour.flattened(0.05))
    assert off.mean() < 0.3
    assert abs(contour.area) == pytest.approx(math.pi * RADIUS**2, rel=4e-3)


def test_a_click_beside_the_edge_leaves_no_hair(disc):
    clicks = [on_rim(0.0), on_rim(0.25, off=-25), on_rim(0.5), on_rim(0.75)]
    contour = pen_contour(disc, clicks[0], [Stretch("edge", c) for c in clicks[1:]], True)
    ring = shapely.Polygon(contour.flattened(0.05))
    assert ring.buffer(-2).buffer(2.2).contains(ring.buffer(-0.5))


def test_kinds_of_stretches_are_mixed_and_stay_open(disc):
    steps = [
        Stretch("edge", on_rim(0.2)),
        Stretch("straight", (60.0, 300.0)),
        Stretch("through", (40.0, 200.0)),
        Stretch("through", (60.0, 100.0)),
    ]
    contour = pen_contour(disc, on_rim(0.0), steps, False)
    assert not contour.closed
    assert contour.straight.sum() == 1
    assert contour.curves[0, 0] == pytest.approx(on_rim(0.0))
    assert contour.curves[-1, 3] == pytest.approx((60, 100))
    ends, starts = contour.curves[:-1, 3], contour.curves[1:, 0]
    assert ends == pytest.approx(starts)


def test_a_closed_line_of_straights_has_its_exact_corners(disc):
    corners = [(50.0, 50.0), (150.0, 50.0), (150.0, 120.0)]
    contour = pen_contour(disc, corners[0], [Stretch("straight", c) for c in corners[1:]], True)
    assert contour.straight.all()
    assert abs(contour.area) == pytest.approx(3500)


def test_a_curve_through_points_meets_them_all_smoothly(disc):
    p = [(50.0, 50.0), (150.0, 40.0), (180.0, 120.0), (60.0, 140.0)]
    contour = pen_contour(disc, p[0], [Stretch("through", c) for c in p[1:]], True)
    assert contour.curves[:, 0] == pytest.approx(np.array(p))
    into = contour.curves[:, 3] - contour.curves[:, 2]
    out = np.roll(contour.curves[:, 1] - contour.curves[:, 0], -1, axis=0)
    turn = into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0]
    assert np.abs(turn / np.linalg.norm(into, axis=1) / np.linalg.norm(out, axis=1)).max() < 1e-6
