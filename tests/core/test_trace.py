import numpy as np
import pytest
import shapely

from drelo.core.errors import Refusal
from drelo.core.picture.decode import decode
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.core.trace.seen.level_lines import level_lines
from tests.conftest import covered, picture_of, png


def distances(outline, truth: shapely.Geometry) -> np.ndarray:
    """Distance of points along an outline's contours from the true border, px."""
    points = np.concatenate([c.flattened(0.002) for c in outline.contours])
    return shapely.distance(shapely.points(points), truth.boundary)


def test_disc_is_round_with_few_nodes():
    trace = trace_ink(picture_of(lambda x, y: np.hypot(x - 150, y - 140) < 100, 300, 280), InkSettings())
    assert len(trace.outlines) == 1
    outline = trace.outlines[0]
    assert outline.area == pytest.approx(np.pi * 100**2, rel=2e-3)
    assert outline.nodes <= 9
    away = distances(outline, shapely.Point(150, 140).buffer(100, quad_segs=500))
    assert away.mean() < 0.1
    assert np.quantile(away, 0.99) < 0.25


def test_rectangle_has_four_sharp_corners():
    trace = trace_ink(picture_of(lambda x, y: (abs(x - 150.3) < 90) & (abs(y - 140.6) < 60), 300, 280), InkSettings())
    outer = trace.outlines[0].outer
    assert len(outer) == 4
    assert outer.straight.all()
    corners = outer.curves[:, 0]
    truth = np.array([[60.3, 80.6], [240.3, 80.6], [240.3, 200.6], [60.3, 200.6]])
    nearest = np.linalg.norm(corners[:, None] - truth[None], axis=2).min(axis=0)
    assert nearest.max() < 0.3


def test_star_keeps_its_points():
    def star(x, y):
        angle = np.arctan2(y - 200, x - 200)
        return np.hypot(x - 200, y - 200) < 90 / np.cos((angle % (2 * np.pi / 5)) - np.pi / 5)

    trace = trace_ink(picture_of(star, 400, 400), InkSettings())
    assert trace.outlines[0].nodes == 5


def test_nesting_follows_the_picture():
    def rings(x, y):
        r = np.hypot(x - 200, y - 200)
        return (r < 180) & (r > 140) | (r < 100) & (r > 60) | (r < 20)

    trace = trace_ink(picture_of(rings, 400, 400), InkSettings())
    assert [len(o.holes) for o in trace.outlines] == [1, 1, 0]
    expected = [180**2 - 140**2, 100**2 - 60**2, 20**2]
    for outline, area in zip(trace.outlines, expected, strict=True):
        assert outline.area == pytest.approx(np.pi * area, rel=5e-3)


def test_orientation_parts_outer_from_holes(ring_png):
    outline = trace_ink(decode(ring_png), InkSettings()).outlines[0]
    assert outline.outer.area * outline.holes[0].area < 0


def test_specks_and_pinholes_go_by_area():
    def draw(x, y):
        disc = np.hypot(x - 100, y - 100) < 70
        return (disc & ~(np.hypot(x - 100, y - 100) < 4)) | (np.hypot(x - 20, y - 20) < 3)

    picture = picture_of(draw, 200, 200)
    everything = trace_ink(picture, InkSettings(speck=1))
    assert sorted(len(o.holes) for o in everything.outlines) == [0, 1]
    calm = trace_ink(picture, InkSettings(speck=60))
    assert [len(o.holes) for o in calm.outlines] == [0]
    assert (calm.dropped, calm.filled) == (1, 1)
    apart = trace_ink(picture, InkSettings(speck=60, pinhole=10))
    assert [len(o.holes) for o in apart.outlines] == [1]
    assert (apart.dropped, apart.filled) == (1, 0)


def test_shapes_that_run_off_close_along_the_border():
    trace = trace_ink(picture_of(lambda x, y: np.hypot(x, y) < 80, 120, 100), InkSettings())
    outline = trace.outlines[0]
    assert outline.area == pytest.approx(np.pi * 80**2 / 4, rel=4e-3)
    x0, y0, _, _ = outline.outer.bounds
    assert x0 == pytest.approx(0, abs=0.15)
    assert y0 == pytest.approx(0, abs=0.15)


def test_area_keeps_the_coordinates_of_the_picture(ring_png):
    picture = decode(ring_png)
    trace = trace_ink(picture, InkSettings(area=(300, 90, 110, 120)))
    assert len(trace.outlines) == 1
    assert trace.outlines[0].outer.bounds == pytest.approx((310, 110, 390, 190), abs=0.3)


def test_level_moves_the_edge():
    def soft(x, y):
        return np.hypot(x - 60, y - 60) < 40

    image = covered(soft, 120, 120)
    blurred = image.resize((30, 30)).resize((120, 120))
    areas = [trace_ink(decode(png(blurred)), InkSettings(level=v)).outlines[0].area for v in (0.25, 0.5, 0.75)]
    assert areas[0] > areas[1] > areas[2]


def test_one_pixel_neck_and_gap_stay_as_drawn():
    def draw(x, y):
        blocks = (abs(y - 50) < 30) & ((x > 20) & (x < 60) | (x > 62) & (x < 100))
        return blocks | (abs(y - 50) < 1) & (x >= 60) & (x <= 62)

    joined = trace_ink(picture_of(draw, 120, 100), InkSettings())
    assert len(joined.outlines) == 1
    parted = trace_ink(picture_of(lambda x, y: draw(x, y) & ~((x > 60) & (x < 62)), 120, 100), InkSettings())
    assert len(parted.outlines) == 2


def test_noise_leaves_no_specks():
    rng = np.random.default_rng(3)
    clean = np.asarray(covered(lambda x, y: np.hypot(x - 150, y - 150) < 90, 300, 300), float)
    noisy = 30 + clean * 0.75 + rng.normal(0, 12, clean.shape)
    from PIL import Image

    trace = trace_ink(decode(png(Image.fromarray(np.clip(noisy, 0, 255).astype(np.uint8)))), InkSettings())
    assert len(trace.outlines) == 1
    assert not trace.outlines[0].holes
    away = distances(trace.outlines[0], shapely.Point(150, 150).buffer(90, quad_segs=400))
    assert away.mean() < 0.25


def test_same_bytes_same_outline(ring_png):
    one, other = (trace_ink(decode(ring_png), InkSettings()) for _ in range(2))
    assert [o.path_data(9) for o in one.outlines] == [o.path_data(9) for o in other.outlines]


def test_saddles_are_decided_by_their_middle():
    checker = np.array([[1, 0], [0, 1]], np.float32)
    parted = level_lines(np.pad(checker * 0.9, 2), 0.5)
    joined = level_lines(np.pad(checker * 0.9, 2, constant_values=0) + np.pad(1 - checker, 2) * 0.45, 0.5)
    assert len(parted) == 2
    assert len(joined) == 1


@pytest.mark.parametrize(
    ("settings", "field"),
    [
        (InkSettings(level=1.2), "level"),
        (InkSettings(speck=-1), "speck"),
        (InkSettings(smooth=2), "smooth"),
        (InkSettings(area=(0, 0, 0, 5)), "area"),
        (InkSettings(area=(900, 900, 50, 50)), "area"),
        (InkSettings(speck=1e8), "level"),
    ],
)
def test_settings_out_of_range_name_their_field(ring_png, settings, field):
    with pytest.raises(Refusal) as refused:
        trace_ink(decode(ring_png), settings)
    assert refused.value.field == field
