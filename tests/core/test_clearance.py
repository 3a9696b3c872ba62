"""Necks, gaps, and rough spots."""

import numpy as np
import pytest

from drelo.core.outline.clearance import narrowest
from drelo.core.outline.contour import polygon
from drelo.core.outline.outline import Outline
from drelo.core.picture.decode import Picture
from drelo.core.trace.check.spots import rough_spots
from drelo.core.trace.ink import InkSettings, trace_ink


def outline(*corners: tuple[float, float]) -> Outline:
    return Outline(polygon(np.array(corners, np.float64)))


def square(x: float, y: float, side: float) -> Outline:
    return outline((x, y), (x + side, y), (x + side, y + side), (x, y + side))


DUMBBELL = outline(
    (0, 0), (30, 0), (30, 14), (40, 14), (40, 0), (70, 0), (70, 30), (40, 30), (40, 16.5), (30, 16.5), (30, 30), (0, 30)
)  # fmt: skip


def test_a_neck_is_found_with_its_width_and_place():
    (neck,), _ = narrowest([DUMBBELL])
    assert neck.width == pytest.approx(2.5, abs=0.01)
    assert 29 < neck.at[0] < 41
    assert neck.at[1] == pytest.approx(15.25, abs=0.1)


@pytest.mark.parametrize(("other", "width"), [(square(10.5, 2, 6), 0.5), (square(11, 11, 10), 2**0.5)])
def test_a_gap_between_two_outlines_is_found(other, width):
    _, (gap,) = narrowest([square(0, 0, 10), other])
    assert gap.width == pytest.approx(width, rel=1e-3)


def test_the_way_round_does_not_matter():
    turned = Outline(DUMBBELL.outer.reversed())
    assert narrowest([turned])[0][0].width == pytest.approx(2.5, abs=0.01)


def test_a_hole_near_the_edge_leaves_a_neck():
    ring = Outline(square(0, 0, 40).outer, (square(2, 12, 16).outer.reversed(),))
    (neck,), _ = narrowest([ring])
    assert neck.width == pytest.approx(2, abs=0.01)


def disc(x: float, y: float, radius: float) -> Outline:
    turn = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    return Outline(polygon(np.stack([x + radius * np.cos(turn), y + radius * np.sin(turn)], axis=1)))


def test_a_disc_has_neither_and_two_have_the_gap_between():
    assert narrowest([disc(0, 0, 20)]) == ((), ())
    necks, (gap,) = narrowest([disc(0, 0, 20), disc(43, 0, 20)])
    assert necks == ()
    assert (gap.width, *gap.at) == pytest.approx((3, 21.5, 0), abs=0.05)


def test_an_island_in_a_hole_leaves_a_gap_there():
    ring = Outline(disc(0, 0, 40).outer, (disc(0, 0, 30).outer.reversed(),))
    (neck,), (gap,) = narrowest([ring, disc(4, 0, 24)])
    assert neck.width == pytest.approx(10, abs=0.01)
    assert (gap.width, *gap.at) == pytest.approx((2, 29, 0), abs=0.05)


def test_tips_are_no_necks_and_nothing_has_none():
    spike = outline((0, 0), (60, 0), (30, 90))
    assert narrowest([spike])[0] == ()
    assert narrowest([]) == ((), ())


def rendered(faint: bool) -> Picture:
    y, x = np.mgrid[:300, :300] + 0.5
    ink = np.clip(80.5 - np.hypot(x - 150, y - 150), 0, 1)
    if faint:
        # A quarter of the disc fades into the paper.
        ink = ink * np.where((x > 150) & (y > 150), np.clip(1.45 - np.hypot(x - 150, y - 150) / 80, 0, 1), 1)
    return Picture(np.repeat((255 * (1 - ink)).astype(np.uint8)[..., None], 3, axis=2), None, None, "image/png")


def spots_of(picture: Picture):
    outlines = trace_ink(picture, InkSettings()).outlines
    return rough_spots(picture, outlines, *narrowest(outlines, 8))


def test_a_clean_picture_has_no_rough_spot():
    assert spots_of(rendered(False)) == ()


def test_a_fading_edge_wants_a_look_where_it_fades():
    spots = spots_of(rendered(True))
    assert spots
    assert all(s.at[0] > 140 and s.at[1] > 140 for s in spots)
    assert [s.weight for s in spots] == sorted((s.weight for s in spots), reverse=True)


def test_a_hair_thin_neck_is_a_rough_spot():
    rgb = np.full((120, 200, 3), 255, np.uint8)
    rgb[20:100, 20:90] = rgb[20:100, 110:180] = 0
    rgb[59:61, 90:110] = 0
    kinds = {s.kind for s in spots_of(Picture(rgb, None, None, "image/png"))}
    assert "neck" in kinds
