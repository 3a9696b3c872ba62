"""Picture care: the original is kept, and places go where the picture goes."""

import cv2
import numpy as np
import pytest

from drelo.core.picture.care import Crop, EvenLight, Flatten, Level, Rub, cared, placement
from drelo.core.picture.decode import Picture
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.trace.ink import InkSettings, trace_ink
from tests.refusals import refused


def picture(rgb: np.ndarray) -> Picture:
    return Picture(rgb.astype(np.uint8), None, None, "image/png")


def squares() -> np.ndarray:
    rgb = np.full((200, 300, 3), 255, np.uint8)
    rgb[60:140, 40:120] = 0
    return rgb


def test_a_crop_keeps_pixels_as_they_are():
    after = cared(picture(squares()), [Crop((30, 50, 100, 100))])
    assert (after.width, after.height) == (100, 100)
    assert np.array_equal(after.rgb, squares()[50:150, 30:130])


def test_level_turns_a_leaning_picture_upright():
    turned = cv2.warpAffine(
        squares(), cv2.getRotationMatrix2D((80, 100), 8, 1), (300, 200), flags=cv2.INTER_CUBIC, borderValue=(255,) * 3
    )
    # The square's upper side leans by eight degrees.
    slope = np.tan(np.radians(8))
    after = cared(picture(turned), [Level((40, 100), (120, 100 - 80 * slope))])
    outline = trace_ink(after, InkSettings()).outlines[0].outer
    x0, y0, x1, y1 = outline.bounds
    assert (x1 - x0, y1 - y0) == pytest.approx((80, 80), abs=0.5)


def test_flatten_undoes_a_view_from_the_side():
    corners = np.array([[60, 30], [260, 50], [240, 180], [40, 170]], np.float32)
    sheet = np.full((160, 240, 3), 255, np.uint8)
    sheet[40:120, 60:180] = 0
    target = np.array([[0, 0], [240, 0], [240, 160], [0, 160]], np.float32)
    seen = cv2.warpPerspective(
        sheet, cv2.getPerspectiveTransform(target, corners), (300, 200), borderValue=(200, 200, 200)
    )
    after = cared(picture(seen), [Flatten(tuple(map(tuple, corners.tolist())))])
    outline = trace_ink(after, InkSettings()).outlines[0].outer
    box = np.array(outline.bounds) / [after.width, after.height, after.width, after.height]
    assert box == pytest.approx([60 / 240, 40 / 160, 180 / 240, 120 / 160], abs=0.012)


def test_corners_may_be_given_from_any_and_either_way_round():
    corners = ((60.0, 30.0), (260.0, 50.0), (240.0, 180.0), (40.0, 170.0))
    first = placement(300, 200, [Flatten(corners)])
    assert placement(300, 200, [Flatten((*corners[2:], *corners[:2]))]) == pytest.approx(first, abs=1e-6)
    assert placement(300, 200, [Flatten(corners[::-1])]) == pytest.approx(first, abs=1e-6)


def test_light_is_evened_out():
    lit = 235.0 * np.linspace(1, 0.5, 300)[None, :, None] * np.ones((200, 1, 3))
    lit[60:140, 100:200] *= 0.15
    after = cared(picture(lit), [EvenLight()])
    paper = after.rgb[20, :, 0].astype(float)
    assert np.ptp(paper) < 12
    assert after.rgb[100, 150, 0] < 60


def test_what_is_rubbed_out_becomes_paper():
    rgb = squares()
    rgb[20:24, 200:280] = 0
    after = cared(picture(rgb), [Rub(((195, 22), (285, 22)), 6)])
    assert np.array_equal(after.rgb, squares())


@pytest.mark.parametrize(
    ("step", "words"),
    [
        (Crop((400, 400, 50, 50)), "too little of the picture"),
        (Level((5, 5), (6, 5)), "too short"),
        (Flatten(((0, 0), (100, 0), (50, 20), (40, 100))), "go round the sheet"),
    ],
)
def test_steps_that_make_no_sense_are_refused(step, words):
    with refused(words):
        cared(picture(squares()), [step])


def test_marks_of_regions_go_with_the_picture():
    source = PlacedPicture(id="s", asset="a" * 64, name="x.png", width=300, height=200)
    mark = {"anchor": (80, 100), "box": (40, 60, 120, 140), "picture": "s"}
    document = apply(Document(), EDIT.validate_python({"do": "put-picture", "source": source.model_dump()}))
    document = apply(
        document, EDIT.validate_python({"do": "set-regions", "picked": [{"id": "r", "mark": mark}], "height": 2})
    )
    crop = {"do": "set-care", "care": [{"do": "crop", "box": (30, 50, 100, 100)}]}
    after = apply(document, EDIT.validate_python(crop))
    # What is left of the picture stays where it lies.
    assert after.regions[0].mark.anchor == pytest.approx((80, 100))
    assert after.pictures[0].place.at == pytest.approx((30, 50))
    turned = apply(document, EDIT.validate_python({"do": "place-picture", "place": {"turn": 90, "mm_per_px": 0.5}}))
    assert turned.regions[0].mark.anchor == pytest.approx((-50, 40))
    back = apply(after, EDIT.validate_python({"do": "set-care", "care": []}))
    assert back.regions[0].mark.box == pytest.approx(mark["box"])
