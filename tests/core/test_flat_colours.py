"""Palettes, labels and the planar graph of arcs."""

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.picture.palette import colour_distance, find_palette, mixing, palette_of
from drelo.core.trace.colours.arcs import OUTSIDE, find_arcs
from drelo.core.trace.colours.colours import ColourSettings, trace_colours
from drelo.core.trace.colours.labels import label, without_specks
from drelo.core.trace.proposal import proposed
from tests.refusals import refused

RED, GREEN, BLUE, WHITE = (200, 40, 40), (40, 160, 60), (40, 60, 200), (255, 255, 255)


def picture(rgb: np.ndarray, alpha: np.ndarray | None = None) -> Picture:
    return Picture(np.ascontiguousarray(rgb.astype(np.uint8)), alpha, None, "image/png")


def discs(noise: float = 0.0) -> np.ndarray:
    rgb = np.full((120, 180, 3), 255, np.uint8)
    for k, colour in enumerate((RED, GREEN, BLUE)):
        cv2.circle(rgb, (35 + 55 * k, 60), 24, colour, -1, cv2.LINE_AA)
    if noise:
        rgb = np.clip(rgb + np.random.default_rng(4).normal(0, noise, rgb.shape), 0, 255).astype(np.uint8)
    return rgb


@pytest.mark.parametrize("noise", [0.0, 6.0])
def test_the_palette_is_what_was_painted(noise):
    palette = find_palette(mixing(picture(discs(noise))), None, noise)
    assert len(palette) == 4
    for colour in (RED, GREEN, BLUE, WHITE):
        away = np.abs(palette.rgba[:, :3] - np.array(colour)).max(axis=1)
        assert away.min() <= 3
    assert palette.share.sum() == pytest.approx(1)
    assert list(palette.share) == sorted(palette.share, reverse=True)


@pytest.mark.parametrize("count", [2, 3, 4])
def test_as_many_colours_as_were_asked_for(count):
    assert len(find_palette(mixing(picture(discs())), count, 0.0)) == count


def test_edges_make_no_colours_of_their_own():
    rgb = np.full((90, 90, 3), 255, np.uint8)
    for r in (40, 30, 20, 10):
        cv2.circle(rgb, (45, 45), r, RED if r % 20 else (20, 20, 20), -1, cv2.LINE_AA)
    assert len(find_palette(mixing(picture(cv2.GaussianBlur(rgb, (0, 0), 0.8))), None, 0.0)) == 3


def badge(thickness: int, band: tuple[int, int, int] = BLUE) -> np.ndarray:
    """Dark thin strokes over a red disc and a band, covered 8 times finer than its pixels."""
    fine = np.full((720, 1200, 3), 255, np.uint8)
    cv2.circle(fine, (600, 330), 290, RED, -1)
    cv2.rectangle(fine, (60, 500), (1140, 660), band, -1)
    for x in range(210, 1000, 130):
        cv2.line(fine, (x, 150), (x + 67, 450), (30, 24, 20), thickness)
    return cv2.resize(fine, (150, 90), interpolation=cv2.INTER_AREA)


@pytest.mark.parametrize("thickness", [16, 20, 26])
def test_thin_strokes_have_their_own_colour_though_no_pixel_of_theirs_is_plain(thickness):
    palette = find_palette(mixing(picture(badge(thickness))), None, 0.0)
    assert len(palette) == 4
    away = [np.abs(palette.rgba[:, :3] - np.array(c)).max(axis=1).min() for c in (WHITE, RED, BLUE, (30, 24, 20))]
    assert max(away[:3]) <= 2
    assert away[3] <= 14


def test_thin_strokes_come_before_shades_when_a_number_is_asked_for():
    palette = find_palette(mixing(picture(badge(20))), 4, 0.0)
    assert np.abs(palette.rgba[:, :3] - np.array((30, 24, 20))).max(axis=1).min() <= 14


def test_strokes_of_a_small_lossy_picture_are_traced_and_no_area_falls_apart():
    kept, data = cv2.imencode(".jpg", badge(22, (140, 90, 60)), [cv2.IMWRITE_JPEG_QUALITY, 60])
    assert kept
    trace = trace_colours(picture(cv2.imdecode(data, cv2.IMREAD_COLOR)), ColourSettings())
    found = {
        fill: [o.area for o, f in zip(trace.outlines, trace.fills, strict=True) if f == fill] for fill in trace.fills
    }
    assert len(found) == 3
    dark = min(found, key=lambda fill: sum(int(fill[k : k + 2], 16) for k in (1, 3, 5)))
    assert len(found[dark]) == 7
    assert sum(found[dark]) == pytest.approx(7 * 38.4 * 2.75, rel=0.15)


@pytest.mark.parametrize("count", [1, 25])
def test_numbers_of_colours_out_of_range_are_refused(count):
    with pytest.raises(Refusal) as refusal:
        find_palette(mixing(picture(discs())), count, 0.0)
    assert refusal.value.field == "colours"


def test_one_colour_is_no_palette():
    with refused("all of one colour"):
        find_palette(mixing(picture(np.full((40, 40, 3), 120))), None, 0.0)


def test_given_colours_are_read_or_refused():
    assert palette_of(["#c82828", "#ffffff"], True).rgba.tolist() == [[200, 40, 40, 255], [255, 255, 255, 255], [0] * 4]
    with refused("not a colour"):
        palette_of(["red"], False)


def test_distances_of_colours_follow_the_eye():
    assert colour_distance("#c82828", "#c82828") == 0
    assert colour_distance("#c82828", "#c83030") < colour_distance("#c82828", "#2828c8")


def test_see_through_pixels_mix_without_the_white_under_them():
    alpha = np.zeros((20, 20), np.uint8)
    alpha[5:15, 5:15] = 255
    alpha[5, 5:15] = 128
    rgb = np.full((20, 20, 3), 255, np.uint8)
    rgb[6:15, 5:15] = RED
    rgb[5, 5:15] = [round(c * 128 / 255 + 255 * 127 / 255) for c in RED]
    mixed = mixing(picture(rgb, alpha))
    assert mixed[0, 0].tolist() == [0, 0, 0, 0]
    assert mixed[5, 8, :3] == pytest.approx([c * 128 / 255 for c in RED], abs=1)


# Labels


def test_a_mixture_goes_to_the_colour_it_has_more_of():
    rgb = np.full((9, 12, 3), 255, np.uint8)
    rgb[:, :5] = RED
    rgb[:, 5] = [round(0.7 * a + 0.3 * 255) for a in RED]
    rgb[:, 6:] = WHITE
    palette = palette_of(["#c82828", "#ffffff", "#f0a0a0"], False).mixing[:, :3]
    labels = label(rgb.astype(np.float32), palette, 0.0)
    # The mixture looks like the third colour, which is nowhere.
    assert set(np.unique(labels)) == {0, 1}
    assert (labels[:, 5] == 0).all()


def test_specks_go_to_what_they_touch_most():
    labels = np.zeros((20, 30), np.int16)
    labels[:, 15:] = 1
    labels[5:7, 5:7] = 2
    labels[10, 14:17] = 2
    cleaned, gone = without_specks(labels, 3, 6)
    assert gone == 2
    assert not (cleaned == 2).any()
    assert (cleaned[5:7, 5:7] == 0).all()


def test_nothing_is_a_speck_at_size_zero():
    labels = np.random.default_rng(1).integers(0, 3, (12, 12)).astype(np.int16)
    cleaned, gone = without_specks(labels, 3, 0)
    assert gone == 0
    assert np.array_equal(cleaned, labels)


# Arcs


def arcs_of(labels: np.ndarray):
    count = int(labels.max()) + 1
    palette = 40.0 * np.arange(count)[:, None] * np.ones((1, 3))
    pixels = palette[labels].astype(np.float32)
    return find_arcs(labels.astype(np.int16), pixels, palette, np.arange(count))


def test_three_bands_have_arcs_and_junctions_on_the_border():
    labels = np.repeat([0, 1, 2], 5)[None].repeat(8, axis=0)
    arcs = arcs_of(labels)
    assert len(arcs.junctions) == 4
    inner = ~arcs.border
    assert inner.sum() == 2
    for points in (arcs.points[arcs.starts[a] : arcs.starts[a + 1]] for a in np.flatnonzero(inner)):
        assert len(points) == 8
        assert np.ptp(points[:, 0]) == 0
    assert len(arcs.loops) == 4


def test_an_island_is_one_closed_arc():
    labels = np.zeros((10, 10), int)
    labels[3:7, 3:7] = 1
    arcs = arcs_of(labels)
    assert arcs.closed.sum() == 2
    island = int(np.flatnonzero(arcs.closed & ~arcs.border)[0])
    assert {int(arcs.left[island]), int(arcs.right[island])} == {0, 1}
    assert arcs.starts[island + 1] - arcs.starts[island] == 16


def test_edges_lie_where_the_mixture_says():
    rgb = np.zeros((6, 8, 3), np.float32)
    rgb[:, 4:] = 100
    rgb[:, 3] = 25
    labels = (rgb[..., 0] > 50).astype(np.int16)
    arcs = find_arcs(labels, rgb, np.array([[0.0] * 3, [100.0] * 3]), np.arange(2))
    inner = int(np.flatnonzero(~arcs.border)[0])
    # Half way in colour lies a third of the way from 25 to 100.
    assert arcs.points[arcs.starts[inner], 0] == pytest.approx(3.5 + 1 / 3)


@given(st.integers(0, 2**31 - 1), st.integers(2, 4), st.integers(3, 9), st.integers(3, 9))
def test_loops_go_round_every_area_once(seed, count, height, width):
    labels = np.random.default_rng(seed).integers(0, count, (height, width))
    arcs = arcs_of(labels)
    used = [half for loop in arcs.loops for half in loop]
    assert len(used) == len(set(used)) == 2 * len(arcs)
    total = np.zeros(count)
    for loop in arcs.loops:
        sides = []
        for arc, backward in loop:
            points = arcs.points[arcs.starts[arc] : arcs.starts[arc + 1]]
            ends = arcs.ends[arc]
            if ends[0] >= 0:
                points = np.concatenate([arcs.junctions[ends[:1]], points, arcs.junctions[ends[1:]]])
            sides.append(points[::-1] if backward else points)
            beside = {int((arcs.right if backward else arcs.left)[arc]) for arc, backward in loop}
        assert len(beside) == 1
        ring = np.concatenate(sides)
        area = 0.5 * np.sum(ring[:, 1] * np.roll(ring[:, 0], -1) - ring[:, 0] * np.roll(ring[:, 1], -1))
        (name,) = beside
        if name != OUTSIDE:
            total[name] += area
    # Corners of pixels are cut off, so that areas are only near the count of pixels; nothing is lost in sum.
    assert total.sum() == pytest.approx(height * width, rel=0.25)


def test_groups_leave_no_loop_between_their_colours():
    labels = np.repeat([0, 1, 2], 5)[None].repeat(8, axis=0).astype(np.int16)
    palette = 40.0 * np.arange(3)[:, None] * np.ones((1, 3))
    arcs = find_arcs(labels, palette[labels].astype(np.float32), palette, np.array([0, 0, 2]))
    between = [a for a in range(len(arcs)) if {int(arcs.left[a]), int(arcs.right[a])} == {0, 1}]
    assert not any(arc in between for loop in arcs.loops for arc, _ in loop)


@pytest.mark.parametrize("seed", range(6))
def test_areas_of_a_noisy_picture_never_overlap(seed):
    rng = np.random.default_rng(seed)
    blobs = cv2.resize(rng.integers(0, 3, (14, 14)).astype(np.uint8), (112, 112), interpolation=cv2.INTER_NEAREST)
    rgb = np.array([(250, 250, 250), (200, 60, 40), (40, 70, 160)], np.float64)[cv2.medianBlur(blobs, 5)]
    rgb = cv2.GaussianBlur(rgb, (0, 0), 1.0) + rng.normal(0, 14, rgb.shape)
    noisy = picture(np.clip(rgb, 0, 255))
    outlines = trace_colours(noisy, ColourSettings(colours=3, speck=6)).outlines
    shapes = [o.flattened(0.005) for o in outlines]
    covered = shapely.union_all(shapes).area
    assert sum(s.area for s in shapes) == pytest.approx(covered, rel=1e-6)


def shaded() -> np.ndarray:
    """A disc and a bar, each of one colour, in light that halves towards one corner, with noise."""
    y, x = np.mgrid[:300, :420]
    rgb = np.full((300, 420, 3), (230, 225, 215), np.float64)
    big = np.zeros((1200, 1680, 3), np.uint8)
    cv2.circle(big, (680, 560), 360, (255, 0, 0), -1)
    cv2.rectangle(big, (1160, 200), (1400, 1040), (0, 255, 0), -1)
    cover = cv2.resize(big, (420, 300), interpolation=cv2.INTER_AREA) / 255
    for c, colour in ((0, (170, 50, 40)), (1, (50, 110, 60))):
        rgb = rgb * (1 - cover[..., c : c + 1]) + np.array(colour) * cover[..., c : c + 1]
    light = 1 - 0.45 * (x / 420 + y / 300) / 2
    noise = np.random.default_rng(3).normal(0, 3, rgb.shape)
    return np.clip(rgb * light[..., None] + noise, 0, 255).astype(np.uint8)


def test_a_surface_in_uneven_light_is_one_area():
    trace = trace_colours(picture(shaded()), ColourSettings())
    assert len(trace.outlines) == 2
    assert len(trace.swatches) == 3
    disc, bar = sorted(trace.outlines, key=lambda o: -o.area)
    assert disc.area == pytest.approx(np.pi * 90**2, rel=0.01)
    assert bar.area == pytest.approx(60 * 210, rel=0.01)
    # With its swatches the same picture falls into the same areas.
    groups = tuple((s.colour, *s.bands) for s in trace.swatches)
    again = trace_colours(picture(shaded()), ColourSettings(palette=groups))
    assert sorted(o.area for o in again.outlines) == pytest.approx([bar.area, disc.area], rel=0.002)


def test_bands_of_a_surface_stay_apart_when_their_number_is_asked_for():
    trace = trace_colours(picture(shaded()), ColourSettings(colours=6))
    assert len(trace.swatches) == 6


def test_tints_with_an_edge_between_them_stay_apart():
    rgb = np.full((120, 160, 3), 255, np.uint8)
    for k in range(4):
        cv2.rectangle(rgb, (20 + 30 * k, 20), (50 + 30 * k, 100), (60 + 45 * k, 40 + 45 * k, 20 + 45 * k), -1)
    assert len(trace_colours(picture(cv2.GaussianBlur(rgb, (0, 0), 1.2)), ColourSettings()).swatches) == 5


def emblem(side: int) -> np.ndarray:
    """A triangle whose corners all but touch the ring round it: junctions a pixel apart."""
    fine = np.full((960, 960, 3), 255, np.uint8)
    cv2.circle(fine, (480, 480), 430, GREEN, -1)
    cv2.circle(fine, (480, 480), 370, (250, 240, 200), -1)
    cv2.fillPoly(fine, [np.array([[480, 180], [760, 720], [200, 720]])], RED)
    return cv2.resize(fine, (side, side), interpolation=cv2.INTER_AREA)


@pytest.mark.parametrize("side", [120, 240, 333, 500])
def test_curves_that_cross_at_a_junction_follow_their_pixels_only_there(side):
    trace = trace_colours(picture(emblem(side)), ColourSettings())
    areas = [o.flattened(0.01) for o in trace.outlines]
    assert shapely.union_all(areas).area == pytest.approx(sum(a.area for a in areas), abs=0.05)
    assert sum(len(c.curves) for o in trace.outlines for c in o.contours) < 200


def unmixed(side: int) -> tuple[np.ndarray, list[shapely.Geometry]]:
    """Two discs over each other and a bar, every pixel of one colour, and what is seen of each."""
    y, x = (np.mgrid[:side, :side] + 0.5) / side * 100
    rgb = np.full((side, side, 3), 255, np.uint8)
    rgb[np.hypot(x - 40.3, y - 42.1) < 25] = RED
    rgb[np.hypot(x - 62.2, y - 55.4) < 22.5] = GREEN
    rgb[(abs(x - 50) < 35) & (abs(y - 88) < 3.2)] = BLUE
    one, other = shapely.Point(40.3, 42.1).buffer(25, 64), shapely.Point(62.2, 55.4).buffer(22.5, 64)
    return rgb, [shapely.difference(one, other), other, shapely.box(15, 84.8, 85, 91.2)]


@pytest.mark.parametrize("side", [80, 200, 500])
def test_stairs_between_flat_colours_are_no_feature(side):
    rgb, seen = unmixed(side)
    trace = trace_colours(picture(rgb), ColourSettings())
    assert len(trace.outlines) == 3
    assert sum(len(o.outer.curves) for o in trace.outlines) <= 26
    for shape in seen:
        nearest = min(
            shapely.hausdorff_distance(shapely.boundary(shape), shapely.boundary(scaled(o, 100 / side)), 0.02)
            for o in trace.outlines
        )
        assert nearest * side / 100 < 1


@pytest.mark.parametrize("slope", [1 / 33, 1 / 21, -1 / 40])
def test_a_long_leaning_edge_in_stairs_stays_straight(slope):
    y, x = np.mgrid[:300, :700] + 0.5
    rgb = np.full((300, 700, 3), 255, np.uint8)
    rgb[np.hypot(x - 350, y - 150) < 120] = RED
    rgb[(abs(y - 150 - slope * (x - 350)) < 40) & (abs(x - 350) < 320)] = BLUE
    trace = trace_colours(picture(rgb), ColourSettings())
    band = max((o for o, f in zip(trace.outlines, trace.fills, strict=True) if f == "#283cc8"), key=lambda o: o.area)
    points = band.outer.flattened(0.05)
    inner = points[abs(points[:, 0] - 350) < 310]
    assert np.abs(np.abs(inner[:, 1] - 150 - slope * (inner[:, 0] - 350)) - 40).max() < 0.8


def scaled(outline, by: float) -> shapely.Geometry:
    return outline.transformed(by).flattened(0.02)


def test_fringes_of_letters_on_a_screen_are_no_colours():
    over = 3
    large = np.full((120 * over, 300 * over), 255.0)
    for k in range(8):
        x = (20 + 28 * k) * over + k
        cv2.line(large, (x, 20 * over), (x + 8 * over, 100 * over), 0, 4 * over, cv2.LINE_AA)
    cv2.circle(large, (270 * over, 60 * over), 20 * over, 0, 5 * over, cv2.LINE_AA)
    lines = large.reshape(120, over, 300 * over).mean(axis=1)
    lines = cv2.filter2D(lines, -1, np.array([[1, 2, 3, 2, 1]]) / 9, borderType=cv2.BORDER_REPLICATE)
    # Red, green and blue lie beside each other within a pixel.
    rgb = np.stack([lines[:, c::3] for c in range(3)], axis=2)
    picture = Picture(np.round(rgb).astype(np.uint8), None, None, "image/png")
    found = trace_colours(picture, ColourSettings())
    assert len(found.swatches) == 2
    assert len(found.outlines) == 9
    assert proposed(picture) != "colours"
