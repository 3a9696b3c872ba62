"""Parts of a picture traced by themselves, what is left out, attempts, and sizes taken from the picture."""

import math

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.picture.reduce import factor_for
from drelo.core.piece.document import Document
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.trace.area import Fence
from drelo.core.trace.colours.colours import ColourSettings
from drelo.core.trace.ink import InkSettings
from drelo.core.trace.modes import trace
from drelo.core.trace.strokes.strokes import StrokeSettings
from tests.conftest import png as packed
from tests.piece import edited, picked, picture_of
from tests.refusals import refused

ASSET = "b" * 64


def png(rgb: np.ndarray) -> bytes:
    return packed(Image.fromarray(rgb))


def decoded(rgb: np.ndarray) -> Picture:
    return Picture(rgb, None, None, "image/png")


def discs(*places, side=400, radius=40) -> np.ndarray:
    y, x = np.mgrid[:side, :side] + 0.5
    away = np.min([np.hypot(x - a, y - b) for a, b in places], axis=0)
    ink = np.clip(radius + 0.5 - away, 0, 1)
    return np.repeat((255 * (1 - ink)).round().astype(np.uint8)[..., None], 3, axis=2)


TWO = discs((110, 120), (290, 280))


def begun(rgb: np.ndarray) -> tuple[Document, Evaluation]:
    source = PlacedPicture(id="s", asset=ASSET, name="a.png", width=rgb.shape[1], height=rgb.shape[0])
    return Document(pictures=(source,)), Evaluation(lambda _: png(rgb), Memo())


def square(x: float, y: float, side: float) -> list[tuple[float, float]]:
    return [(x, y), (x + side, y), (x + side, y + side), (x, y + side)]


# Free areas


@pytest.mark.parametrize("mode", [InkSettings, ColourSettings, StrokeSettings])
def test_only_what_lies_in_a_free_area_is_traced(mode):
    around_first = Fence(((40, 40), (200, 40), (150, 210), (40, 200)))
    found = trace(decoded(TWO), mode(area=around_first))
    boxes = np.array([o.outer.bounds for o in found.outlines])
    assert boxes[:, 2:].max() < 210
    if mode is not StrokeSettings:
        assert sum(o.area for o in found.outlines) == pytest.approx(math.pi * 40**2, rel=2e-3)


def test_a_shape_is_closed_along_the_border_of_its_area():
    half = Fence(((40, 40), (110, 40), (110, 200), (40, 200)))
    found = trace(decoded(TWO), InkSettings(area=half))
    assert found.outlines[0].area == pytest.approx(math.pi * 40**2 / 2, rel=5e-3)
    assert found.outlines[0].outer.bounds[2] == pytest.approx(110, abs=0.1)


def test_an_area_on_coloured_ground_takes_the_ground_for_background():
    rgb = np.full((200, 200, 3), (240, 220, 160), np.uint8)
    cv2.circle(rgb, (100, 100), 30, (30, 60, 160), -1, cv2.LINE_AA)
    found = trace(decoded(rgb), ColourSettings(area=Fence(((50, 60), (150, 50), (140, 150), (60, 140)))))
    assert len(found.outlines) == 1
    assert found.outlines[0].area == pytest.approx(math.pi * 30.5**2, rel=0.03)


@pytest.mark.parametrize("corners", [((0, 0), (5, 5)), ((500, 500), (600, 500), (550, 600))])
def test_areas_that_hold_nothing_are_refused(corners):
    with pytest.raises(Refusal) as refusal:
        trace(decoded(TWO), InkSettings(area=Fence(corners)))
    assert refusal.value.field == "area"


# Reduced work


@pytest.mark.parametrize("mode", [InkSettings, ColourSettings])
def test_a_reduced_picture_gives_the_same_outline_in_whole_pixels(mode):
    rgb = discs((500, 520), side=1003, radius=310)
    whole, reduced = trace(decoded(rgb), mode()), trace(decoded(rgb), mode(), factor=3)
    assert len(reduced.outlines) == 1
    assert reduced.outlines[0].area == pytest.approx(whole.outlines[0].area, rel=1e-3)
    assert reduced.outlines[0].outer.bounds == pytest.approx(whole.outlines[0].outer.bounds, abs=0.5)


def test_sizes_of_specks_stay_in_whole_pixels():
    rgb = discs((200, 200), (20, 20), radius=8, side=420)
    rgb[150:250, 150:250] = 0
    kept = trace(decoded(rgb), InkSettings(speck=150), factor=2)
    gone = trace(decoded(rgb), InkSettings(speck=260), factor=2)
    assert (len(kept.outlines), len(gone.outlines)) == (2, 1)
    assert gone.speck == pytest.approx(260)


@given(st.integers(1, 10**8), st.integers(10**4, 10**7))
def test_the_factor_is_the_smallest_that_does(pixels, most):
    factor = factor_for(pixels, most)
    assert pixels / factor**2 <= most
    assert factor == 1 or pixels / (factor - 1) ** 2 > most


def test_large_pictures_are_worked_on_reduced_until_all_is_asked_for():
    rgb = discs((200, 200), radius=150)
    document, _ = begun(rgb)
    small = Evaluation(lambda _: png(rgb), Memo(), most=50_000)
    assert small.flat(document).reduced == 2
    exact = Evaluation(lambda _: png(rgb), Memo())
    assert exact.flat(document).reduced == 1
    assert small.flat(document).regions[0].area == pytest.approx(exact.flat(document).regions[0].area, rel=2e-3)


# Areas, attempts and what is left out in a document


def test_areas_have_their_own_settings_and_are_kept_apart():
    document, evaluation = begun(TWO)
    document = edited(document, do="add-area", id="one", corners=square(60, 70, 100))
    document = edited(document, do="add-area", id="two", corners=square(240, 230, 100), name="Lower")
    document = edited(document, do="set-trace", area="two", mode="colours")
    flat = evaluation.flat(document)
    assert [r.traced_in for r in flat.regions] == ["one", "two"]
    assert [(t.area, t.level is None) for t in flat.traces] == [("one", False), ("two", True)]
    assert [a.name for a in flat.areas] == ["Area 1", "Lower"]
    assert picture_of(document).trace.mode == picture_of(document).areas[0].trace.mode == "ink"
    for identifier in ("one", "two"):
        document = edited(document, do="drop-area", id=identifier)
    assert [r.traced_in for r in evaluation.flat(document).regions] == [None, None]
    with refused("no area with that name"):
        edited(document, do="set-trace", area="one", level=0.4)


def test_an_area_that_leaves_nothing_is_named():
    document, evaluation = begun(TWO)
    document = edited(document, do="add-area", id="one", corners=square(180, 20, 120), name="Corner")
    with refused("Corner"):
        evaluation.flat(document)


def test_a_region_that_is_left_out_is_not_raised_and_can_be_taken_back():
    document, evaluation = begun(TWO)
    both = evaluation.flat(document)
    document = edited(document, do="set-regions", picked=picked(both.regions[0]), left_out=True)
    flat = evaluation.flat(document)
    assert [r.left_out for r in flat.regions] == [True, False]
    # What is left out does not count for the box of the art, and what stays lies where it lay.
    assert flat.width == pytest.approx(80, abs=0.5)
    assert flat.regions[1].path == both.regions[1].path
    assert len(evaluation.raised(document).regions) == 2
    document = edited(document, do="set-regions", picked=picked(flat.regions[1]), left_out=True)
    assert evaluation.flat(document).base_path == ""
    with refused("No region is left"):
        evaluation.raised(document)
    document = edited(document, do="set-regions", picked=picked(*flat.regions), left_out=False)
    assert evaluation.flat(document) == both


def test_an_attempt_brings_all_its_settings_back():
    document, _evaluation = begun(TWO)
    document = edited(document, do="set-trace", smooth=0.9)
    document = edited(document, do="add-area", id="one", corners=square(60, 70, 100))
    kept = edited(document, do="keep-attempt", id="t1")
    other = edited(edited(kept, do="set-trace", area="one", mode="colours"), do="drop-area", id="one")
    back = edited(other, do="choose-attempt", id="t1")
    assert (picture_of(back).trace, picture_of(back).areas) == (picture_of(document).trace, picture_of(document).areas)
    assert picture_of(back).attempts[0].name == "Ink, level auto, calm 90, 1 area"
    assert picture_of(edited(back, do="drop-attempt", id="t1")).attempts == ()
    with refused("no attempt"):
        edited(back, do="choose-attempt", id="t9")


def test_two_points_of_the_picture_give_the_size():
    document, evaluation = begun(TWO)
    thing = {"kind": "shape", "id": "c", "form": "circle", "at": [0, 0], "width": 20, "height": 20}
    document = edited(document, do="put-drawn", things=[thing])
    scaled = edited(document, do="set-scale", mm=50, points=[[110, 120], [290, 280]])
    scale = picture_of(scaled).place.mm_per_px
    assert scale == pytest.approx(50 / math.hypot(180, 160))
    # The middle between the two points stays, and so does what was drawn.
    before, after = picture_of(document).place, picture_of(scaled).place
    assert after.on_sheet((200, 200)) == pytest.approx(before.on_sheet((200, 200)))
    assert evaluation.flat(scaled).things == evaluation.flat(document).things
    discs_only = edited(scaled, do="mark-drawn", ids=["c"], hidden=True)
    solid = evaluation.raised(discs_only)
    assert solid.size[0] == pytest.approx(260 * scale + 2 * document.base.margin, abs=0.06)
    with refused("two points"):
        edited(document, do="set-scale", mm=50, points=[[110, 120], [110.5, 120]])


# Picture care, switched in any order


def test_care_is_taken_back_and_done_again_in_any_order():
    document, evaluation = begun(TWO)
    steps = [
        {"do": "crop", "box": [20, 30, 360, 350]},
        {"do": "level", "start": [0, 0], "end": [100, 5]},
        {"do": "rub", "points": [[94, 103]], "radius": 55},
    ]
    cared = edited(document, do="set-care", care=steps)
    assert len(evaluation.flat(cared).regions) == 1
    without_crop = edited(cared, do="switch-care", at=0, state="off")
    # The rub still lies on the first disc although the crop before it is gone.
    assert len(evaluation.flat(without_crop).regions) == 1
    assert picture_of(without_crop).care[2].points[0] != picture_of(cared).care[2].points[0]
    back = edited(without_crop, do="switch-care", at=0, state="on")
    assert [s.off for s in picture_of(back).care] == [False] * 3
    assert picture_of(back).care[2].points[0] == pytest.approx((94, 103), abs=1e-6)
    fewer = edited(cared, do="switch-care", at=2, state="gone")
    assert len(evaluation.flat(fewer).regions) == 2
    with refused("no longer there"):
        edited(fewer, do="switch-care", at=2, state="off")


def test_areas_and_the_pen_stay_on_their_places_when_the_picture_is_cropped():
    document, evaluation = begun(TWO)
    document = edited(document, do="add-area", id="one", corners=square(240, 230, 100))
    line = {"id": "p", "name": "Line", "start": [100, 100], "stretches": [{"kind": "straight", "to": [150, 120]}]}
    document = edited(document, do="set-pen", line=line)
    cropped = edited(document, do="set-care", care=[{"do": "crop", "box": [60, 60, 320, 320]}])
    assert picture_of(cropped).areas[0].corners[0] == pytest.approx((240, 230))
    assert picture_of(cropped).pen[0].stretches[0].to == pytest.approx((150, 120))
    before, after = evaluation.flat(document), evaluation.flat(cropped)
    assert len(after.regions) == 1
    assert after.regions[0].box == pytest.approx(before.regions[0].box, abs=1e-6)


# Tracing again


@settings(max_examples=25, deadline=None)
@given(st.lists(st.floats(0.12, 0.88), min_size=2, max_size=4), st.integers(0, 10_000))
def test_work_stays_with_its_regions_when_the_level_moves(levels, seed):
    rng = np.random.default_rng(seed)
    places = [
        (90 + 130 * i + rng.uniform(-15, 15), 90 + 130 * j + rng.uniform(-15, 15)) for i in (0, 1) for j in (0, 1)
    ]
    blurred = cv2.GaussianBlur(discs(*places, side=310, radius=34), (0, 0), 2.5)
    document, evaluation = begun(blurred)
    regions = evaluation.flat(document).regions
    for number, region in enumerate(regions):
        document = edited(
            document,
            do="set-regions",
            picked=picked(region),
            height=1.0 + number,
            name=f"Disc {number}",
            filament="leaf",
        )
    before = {r.name: r for r in evaluation.flat(document).regions}
    for level in levels:
        document = edited(document, do="set-trace", level=level)
        flat = evaluation.flat(document)
        assert not any("No longer found" in remark.text for remark in flat.remarks)
        for region in flat.regions:
            was = before[region.name]
            assert (region.id, region.height, region.filament) == (was.id, was.height, "leaf")
            assert math.dist(region.mark.anchor, was.mark.anchor) < 20


def test_what_is_lost_is_listed_and_waits():
    rgb = discs((110, 120), side=400)
    rgb[250:262, 250:262] = 0
    document, evaluation = begun(rgb)
    small = min(evaluation.flat(document).regions, key=lambda r: r.area)
    document = edited(document, do="set-regions", picked=picked(small), height=3.0, name="Dot")
    gone = edited(document, do="set-trace", speck=500)
    assert any("Dot" in remark.text for remark in evaluation.flat(gone).remarks)
    back = evaluation.flat(edited(gone, do="set-trace", speck=None))
    assert [r.height for r in back.regions if r.name == "Dot"] == [3.0]
