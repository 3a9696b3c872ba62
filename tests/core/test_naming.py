"""What regions are called when nobody has named them."""

from __future__ import annotations

import pytest

from drelo.core.picture.colour_names import colour_name
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import DrawnPath, DrawnShape, Lettering
from drelo.core.piece.edits import OrderDrawn, PutDrawn
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.core.piece.naming import attempt_name
from drelo.core.piece.pictures import TraceSettings
from drelo.formats.fonts import shipped_font

EV = Evaluation(lambda name: shipped_font(name[5:]), Memo())


def names(document: Document) -> list[str]:
    return [r.name for r in EV.flat(document).regions]


@pytest.mark.parametrize(
    ("colour", "name"),
    [("#c41414", "red"), ("#101010", "black"), ("#fefefe", "white"), ("#2f8f3f", "green"), ("#2e3a4d", "navy")],
)
def test_colours_have_plain_names(colour: str, name: str) -> None:
    assert colour_name(colour) == name


def test_words_are_called_by_their_letters() -> None:
    words = Lettering(id="w", text="To Me", font="font:sans", at=(0, 0), height=10)
    assert sorted(names(apply(Document(), PutDrawn(things=(words,))))) == ["M", "T", "e", "o"]
    script = words.model_copy(update={"text": "Plot Ten", "font": "font:script"})
    found = names(apply(Document(), PutDrawn(things=(script,))))
    assert "".join(sorted("".join(found))) == "".join(sorted("PlotTen"))
    assert len(found) < 7


def test_a_name_stays_when_something_else_comes_below_or_goes() -> None:
    star = DrawnShape(id="s", form="star", at=(0, 0), width=20, height=20, inner=9)
    path = DrawnPath(id="p", path="M30 0L40 0L35 9Z")
    document = apply(Document(), PutDrawn(things=(star, path)))
    assert names(document) == ["Star", "Outline"]
    ring = DrawnShape(id="r", form="ring", at=(0, 0), width=80, height=80, inner=70, beneath=True)
    more = apply(document, PutDrawn(things=(ring,)))
    assert names(more) == ["Ring", "Star", "Outline"]
    assert names(apply(more, OrderDrawn(ids=("s",), to="top"))) == ["Ring", "Outline", "Star"]


def test_a_ring_takes_its_diameters_in_any_order_and_its_aspect_once() -> None:
    ring = DrawnShape(id="r", form="ring", at=(0, 0), width=40, height=40, inner=60, aspect=0.5)
    (region,) = EV.kept(apply(Document(), PutDrawn(things=(ring,))))
    assert region.shape.outline.outer.bounds == pytest.approx((-30, -15, 30, 15))
    (hole,) = region.shape.outline.holes
    assert hole.bounds == pytest.approx((-20, -10, 20, 10))


@pytest.mark.parametrize(
    ("settings", "areas", "name"),
    [
        ({"level": 0.55}, 0, "Ink, level 45, calm 50"),
        ({"invert": True, "speck": 30}, 0, "Ink, level auto, light areas, specks 30, calm 50"),
        ({"mode": "colours", "colours": 5, "level": 0.2}, 2, "5 colours, calm 50, 2 areas"),
        ({"mode": "colours"}, 0, "Colours, calm 50"),
        (
            {"mode": "strokes", "width": 4, "keen": 0.8},
            1,
            "Strokes, level auto, one width, calm 50, corners 80, 1 area",
        ),
    ],
)
def test_an_attempt_is_named_by_what_was_chosen(settings, areas, name):
    assert attempt_name(TraceSettings(**settings), areas, ()) == name


def test_attempts_that_are_alike_are_told_apart():
    plain = "Ink, level auto, calm 50"
    assert attempt_name(TraceSettings(), 0, {plain}) == f"{plain} (2)"
    assert attempt_name(TraceSettings(), 0, {plain, f"{plain} (2)"}) == f"{plain} (3)"
    assert attempt_name(TraceSettings(), 0, {f"{plain} (2)"}) == plain
