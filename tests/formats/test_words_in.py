"""Words in a picture are read and offered as lettering in their places; what is drawn beside them stays."""

from __future__ import annotations

import shutil

import cv2
import numpy as np
import pytest
import shapely

from drelo.core.lettering.fonts import font_of
from drelo.core.lettering.layout import Setting, letters
from drelo.core.lettering.likeness import likeness
from drelo.core.picture.decode import decode
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Lettering
from drelo.core.piece.edits import EDIT
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.core.piece.operations import SetWords
from drelo.core.piece.shaping import shaped
from drelo.core.piece.words import ReadLine, shared_fonts
from drelo.formats.fonts import NAMES, shipped_font
from drelo.formats.words_in import better, lines_of, read_words
from drelo.work import shaping, tasks
from tests.refusals import refused

needs_reader = pytest.mark.skipif(shutil.which("tesseract") is None, reason="tesseract is not installed")


LARGER = 6


def sign(font: str = "slab", text: str = "Plot Fourteen") -> bytes:
    """A disc, a line under the words, and the words, capitals 70 px high, their middle at 540, 170."""
    image = np.full((360 * LARGER, 900 * LARGER), 255, np.uint8)
    cv2.circle(image, (110 * LARGER, 170 * LARGER), 70 * LARGER, 0, -1)
    cv2.rectangle(image, (220 * LARGER, 270 * LARGER), (860 * LARGER, 284 * LARGER), 0, -1)
    for outline in letters(text, font_of(shipped_font(font)), Setting(height=70)):
        rings = [
            np.round((c.flattened(0.1) + np.array([540, 170])) * LARGER).astype(np.int32) for c in outline.contours
        ]
        cv2.fillPoly(image, rings, 0)
    small = cv2.resize(image, (900, 360), interpolation=cv2.INTER_AREA)
    return bytes(cv2.imencode(".png", small)[1])


def go() -> None:
    pass


@needs_reader
@pytest.mark.parametrize("font", [name for name in NAMES if name != "script"])
def test_words_are_read_and_the_font_is_recognised(font):
    (line,) = read_words(decode(sign(font)))
    assert line.text == "Plot Fourteen"
    assert line.confidence > 0.6
    document = tasks.take_in(go, Document(), {}, sign(font), "sign.png", tasks.Wanted()).document
    document = apply(document, EDIT.validate_python({"do": "place-picture", "place": {"mm_per_px": 1}}))
    (offer,) = shaping.words(go, document, {}, None)
    assert offer.font == f"font:{font}"
    assert offer.likeness > 0.9
    assert offer.height == pytest.approx(70, rel=0.03)
    assert offer.at == pytest.approx((540, 170), abs=1.5)


@needs_reader
def test_light_words_on_a_dark_ground_are_read():
    picture = decode(sign())
    dark = cv2.imencode(".png", 255 - picture.rgb)[1].tobytes()
    assert [line.text for line in read_words(decode(dark))] == ["Plot Fourteen"]


@needs_reader
def test_accepted_words_take_the_place_of_the_traced_letters_and_nothing_else():
    document = tasks.take_in(go, Document(), {}, sign(), "sign.png", tasks.Wanted()).document
    place = {"do": "place-picture", "place": {"mm_per_px": 0.1}}
    document = apply(document, EDIT.validate_python(place))
    evaluated = Evaluation(lambda key: sign() if len(key) == 64 else shipped_font(key.split(":")[1]), Memo())
    before = evaluated.flat(document)
    letters_box = shapely.box(22, 6, 88, 25)
    dots = [r for r in before.regions if letters_box.contains(shapely.Point(r.mark.anchor))]
    raised = {"do": "set-regions", "height": 2.6, "picked": [{"id": d.id, "mark": d.mark} for d in dots]}
    document = apply(document, EDIT.validate_python(raised))
    (offer,) = shaping.words(go, document, {}, None)
    words = Lettering(id="w", text=offer.text, font=offer.font, at=offer.at, height=offer.height, width=offer.width)
    operation = SetWords(things=(words,), under=offer.under)
    after_document = apply(document, shaped(evaluated.workshop(document), operation))
    after = evaluated.flat(after_document)
    kept = [r for r in after.regions if not r.left_out]
    assert {r.drawn for r in kept} == {None, "w"}
    assert sum(r.drawn is None for r in kept) == 2
    assert (after.width, after.height) == pytest.approx((before.width, before.height), abs=0.15)
    assert {r.height for r in kept if r.drawn} == {2.6}
    assert sum(r.area for r in kept if r.drawn) == pytest.approx(sum(d.area for d in dots), rel=0.03)


@needs_reader
def test_a_picture_without_words_offers_none():
    image = np.full((300, 300), 255, np.uint8)
    cv2.circle(image, (150, 150), 100, 0, -1, cv2.LINE_AA)
    assert read_words(decode(cv2.imencode(".png", image)[1].tobytes())) == ()


def test_without_the_reader_it_says_what_to_install(monkeypatch):
    monkeypatch.setenv("PATH", "/nowhere")
    with refused("tesseract-ocr") as refusal:
        read_words(decode(sign()))
    assert refusal.value.field == "words"


def test_words_of_a_line_come_together_and_what_is_hardly_read_stays_out():
    columns = {
        "text": ["Plot", "Fourteen", "|", "fair", "x1"],
        "conf": [91, 84.5, 88, 12, 77],
        "left": [10, 60, 0, 10, 10],
        "top": [20, 22, 0, 90, 200],
        "width": [40, 80, 2, 30, 12],
        "height": [30, 26, 99, 20, 14],
        "block_num": [1, 1, 2, 3, 4],
        "par_num": [1, 1, 1, 1, 1],
        "line_num": [1, 1, 1, 1, 1],
    }
    one, two = lines_of(columns)
    assert (one.text, one.box, one.confidence) == ("Plot Fourteen", (10, 20, 140, 50), 0.845)
    assert two.text == "x1"


def test_likeness_tells_fonts_apart():
    fonts = {name: font_of(shipped_font(name)) for name in NAMES}
    for name, font in fonts.items():
        set_ = letters("Mossgate", font, Setting(height=20))
        ink = shapely.union_all([o.flattened(0.05) for o in set_])
        held = {other: likeness("Mossgate", f, ink).shared for other, f in fonts.items()}
        assert max(held, key=lambda other: held[other]) == name
        assert held[name] > 0.97
        assert sorted(held.values())[-2] < 0.9


@pytest.mark.parametrize(
    ("first", "again", "kept"),
    [
        # A point is missed more often than invented.
        (("1.25 m", 0.45), ("125m", 0.84), "1.25 m"),
        (("125m", 0.84), ("1.25 m", 0.45), "1.25 m"),
        (("125 m", 0.45), ("125m", 0.84), "125m"),
        # Other letters: the surer one, point or not.
        (("1.2S m", 0.4), ("125m", 0.9), "125m"),
        (("1.25", 0.9), ("12", 0.9), "1.25"),
    ],
)
def test_of_two_readings_the_one_with_the_decimal_point_is_kept(first, again, kept):
    box = (0.0, 0.0, 9.0, 9.0)
    assert better(ReadLine(first[0], box, first[1]), ReadLine(again[0], box, again[1])).text == kept


def test_lines_that_can_share_a_font_do():
    plain = [{"sans": 0.70, "round": 0.72}, {"sans": 0.75, "round": 0.69}, {"sans": 0.74, "round": 0.60}]
    assert shared_fonts(plain) == ("sans", "sans", "sans")
    # What is plainly another font stays one.
    title = {"sans": 0.55, "serif": 0.93}
    assert shared_fonts([*plain, title]) == ("sans", "sans", "sans", "serif")
    assert shared_fonts([{"round": 0.72, "sans": 0.70}]) == ("round",)
    assert shared_fonts([]) == ()


@needs_reader
def test_decimal_points_between_digits_are_read():
    (line,) = read_words(decode(sign("sans", "12.75")))
    assert line.text == "12.75"
