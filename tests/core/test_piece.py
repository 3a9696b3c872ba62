"""The document, its edits, and the evaluation with its memory."""

import itertools

import numpy as np
import pytest
from PIL import Image
from pydantic import ValidationError

from drelo.core.errors import Refusal, Superseded
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.solid.seal import check_seal
from drelo.words.spoken import sentence
from tests.conftest import covered, png
from tests.piece import edited, picked, picture_of, worked
from tests.refusals import refused

ASSET = "a" * 64


@pytest.fixture
def document(ring_png) -> Document:
    source = PlacedPicture(id="s1", asset=ASSET, name="ring.png", width=420, height=300)
    return apply(Document(), EDIT.validate_python({"do": "put-picture", "source": source.model_dump()}))


@pytest.fixture
def evaluation(ring_png) -> Evaluation:
    return Evaluation(lambda _: ring_png, Memo())


def test_apply_leaves_the_old_document_alone(document):
    after = edited(document, do="set-base", thickness=4)
    assert document.base.thickness == 2
    assert after.base.thickness == 4
    assert after.base.margin == document.base.margin
    with pytest.raises(ValidationError):
        after.base.thickness = 1


def test_what_is_noted_of_a_picture_stays_beside_the_rest(document):
    after = edited(document, do="set-source", permission="mine")
    after = edited(after, do="set-source", origin="my sketchbook")
    assert (picture_of(after).permission, picture_of(after).origin) == ("mine", "my sketchbook")
    assert picture_of(after).asset == ASSET
    with refused("no picture yet"):
        edited(Document(), do="set-source", permission="mine")


def test_modes_keep_what_was_decided_for_regions(document, evaluation):
    flat = evaluation.flat(document)
    after = edited(document, do="set-regions", picked=picked(flat.regions[0]), height=3.3, name="Ring")
    for mode in ("colours", "strokes", "ink"):
        after = edited(after, do="set-trace", mode=mode)
        regions = evaluation.flat(after).regions
        assert [r.height for r in regions if r.name == "Ring"] == [3.3], mode


@pytest.mark.parametrize(
    "edit",
    [
        {"do": "set-base", "filament": "gold"},
        {"do": "set-defaults", "filament": "gold"},
        {"do": "set-base", "thickness": None},
    ],
)
def test_edits_that_name_nothing_are_refused(document, edit):
    with pytest.raises(Refusal):
        edited(document, **edit)


@pytest.mark.parametrize(
    "edit",
    [
        {"do": "set-trace", "level": 3},
        {"do": "set-scale", "points": [[0, 0], [9, 9]], "mm": -1},
        {"do": "set-defaults", "height": float("inf")},
        {"do": "melt"},
        {"do": "set-base", "colour": "#000000"},
    ],
)
def test_edits_out_of_range_do_not_validate(edit):
    with pytest.raises(ValidationError):
        EDIT.validate_python(edit)


def test_flat_view_is_in_mm_with_the_typed_side_exact(document, evaluation):
    flat = evaluation.flat(worked(evaluation, document, do="set-size", side="width", mm=70))
    assert flat.width == pytest.approx(70)
    (underlay,) = flat.underlays
    assert underlay.mm_per_px == pytest.approx(70 / 350, rel=2e-3)
    assert [r.area for r in flat.regions] == pytest.approx([np.pi * (24**2 - 12**2), 16**2], rel=6e-3)
    assert underlay.box[2] == pytest.approx(420 * underlay.mm_per_px)
    assert flat.size.holds
    assert flat.base_box[2] == pytest.approx(76, abs=0.02)


def test_empty_piece_has_an_empty_flat_view(evaluation):
    flat = evaluation.flat(Document())
    assert flat.regions == ()
    assert flat.underlays == ()


def test_heights_and_filaments_reach_the_solid(document, evaluation):
    ring, square = evaluation.flat(document).regions
    document = edited(document, do="set-regions", picked=picked(square), height=3, filament="clay", name="Bed")
    document = edited(document, do="set-regions", picked=picked(ring), height="through")
    flat = evaluation.flat(document)
    assert [(r.height, r.name) for r in flat.regions] == [("through", "Region 1"), (3, "Bed")]
    raised = evaluation.raised(document)
    assert raised.size[2] == pytest.approx(5)
    assert set(raised.regions) == {"base", ring.id, square.id}
    bodies = evaluation.made(document, 0.008).bodies
    assert [(b.name, b.colour) for b in bodies] == [("base", "#2e3a4d"), ("Bed", "#c26a4a")]
    for body in bodies:
        assert check_seal(body.mesh).sealed
    square_mm = square.area
    assert bodies[1].mesh.volume == pytest.approx(3 * square_mm, rel=2e-3)


def test_what_was_decided_stays_when_the_trace_changes(document, evaluation):
    square = evaluation.flat(document).regions[1]
    document = edited(document, do="set-regions", picked=picked(square), height=2.5, name="Bed")
    for level, smooth in itertools.product((0.2, 0.5, 0.8), (0.0, 1.0)):
        flat = evaluation.flat(edited(document, do="set-trace", level=level, smooth=smooth))
        assert [(r.height, r.name) for r in flat.regions] == [(1.2, "Region 1"), (2.5, "Bed")]


def test_a_region_that_is_gone_is_told_and_comes_back(document, evaluation):
    square = evaluation.flat(document).regions[1]
    document = edited(document, do="set-regions", picked=picked(square), height=2.5, name="Bed")
    without = evaluation.flat(edited(document, do="set-trace", speck=8000))
    assert len(without.regions) == 1
    assert any("Bed" in remark.text for remark in without.remarks)
    again = evaluation.flat(edited(document, do="set-trace", speck=None))
    assert again.regions[1].height == 2.5


def test_back_to_the_default(document, evaluation):
    square = evaluation.flat(document).regions[1]
    high = edited(document, do="set-regions", picked=picked(square), height=2.5)
    plain = edited(high, do="set-regions", picked=picked(square), height=None)
    assert evaluation.flat(plain).regions[1].height == document.default_height


def test_a_form_that_cannot_be_built_is_a_problem_with_its_field_and_stops_nothing(document, evaluation):
    sunk = edited(document, do="set-defaults", height=-2)
    flat = evaluation.flat(sunk)
    assert flat.problem.field == "height"
    assert "go through it" in sentence(flat.problem.message)
    assert len(flat.regions) == 2
    assert flat.base_path == ""
    # Tracing and shaping go on.
    further = worked(evaluation, edited(sunk, do="set-trace", smooth=0.8), do="set-size", side="width", mm=40)
    assert evaluation.flat(further).width == pytest.approx(40)
    with pytest.raises(Refusal) as refused:
        evaluation.raised(further)
    assert refused.value.field == "height"
    assert evaluation.flat(edited(further, do="set-defaults", height=1)).problem is None


def test_art_too_small_for_a_cutter_can_still_be_traced_and_shaped(document, evaluation):
    small = edited(worked(evaluation, document, do="set-size", side="width", mm=0.4), do="set-form", form="cutter")
    assert "too small to cut" in sentence(evaluation.flat(small).problem.message)
    assert evaluation.flat(edited(small, do="set-trace", level=0.4)).regions


def test_a_new_height_does_not_trace_again(document, ring_png):
    asked = []

    def assets(sha256: str) -> bytes:
        asked.append(sha256)
        return ring_png

    evaluation = Evaluation(assets, Memo())
    first = evaluation.art(document)
    evaluation.raised(document)
    higher = edited(document, do="set-defaults", height=4)
    evaluation.raised(higher)
    assert evaluation.art(higher) is first
    assert asked == [ASSET]


def test_memory_forgets_the_oldest():
    memo, computed = Memo(keep=2), []
    for key in ("a", "b", "a", "c", "a", "b"):
        memo.get(key, lambda key=key: computed.append(key) or key)
    assert computed == ["a", "b", "c", "b"]


def test_superseded_work_ends_at_the_next_stage(document, ring_png):
    def newer_came() -> None:
        raise Superseded

    with pytest.raises(Superseded):
        Evaluation(lambda _: ring_png, Memo(), newer_came).flat(document)


def test_loose_parts_are_told(document, evaluation):
    flat = evaluation.flat(edited(document, do="set-base", shape="none"))
    assert any("2 separate parts" in remark.text for remark in flat.remarks)
    assert not any(
        "separate parts" in r.text for r in evaluation.flat(edited(document, do="set-base", shape="circle")).remarks
    )


def test_another_picture_keeps_what_lies_in_the_same_place(document, evaluation):
    square = evaluation.flat(document).regions[1]
    document = edited(document, do="set-regions", picked=picked(square), height=2.5)
    other = png(covered(lambda x, y: (abs(x - 352) < 42) & (abs(y - 148) < 38), 420, 300))
    source = {**picture_of(document).model_dump(), "asset": "b" * 64}
    after = edited(document, do="put-picture", source=source)
    flat = Evaluation(lambda _: other, Memo()).flat(after)
    assert [r.height for r in flat.regions] == [2.5]


def on_black() -> Evaluation:
    """A light disc on a dark ground."""
    y, x = np.mgrid[:120, :160] + 0.5
    grey = np.where(np.hypot(x - 80, y - 60) < 30, 240, 20).astype(np.uint8)
    return Evaluation(lambda _: png(Image.fromarray(grey)), Memo())


@pytest.mark.parametrize("mode", ["ink", "strokes"])
def test_a_dark_ground_is_told_until_light_and_dark_are_turned_round(document, mode):
    there = on_black()
    as_found = edited(document, do="set-trace", mode=mode)
    told = [r for r in there.flat(as_found).remarks if "dark all round" in r.text]
    assert len(told) == 1
    turned = edited(as_found, do="set-trace", invert=True)
    assert not [r for r in there.flat(turned).remarks if "dark all round" in r.text]


def test_a_light_ground_is_no_remark(document, evaluation):
    assert not [r for r in evaluation.flat(document).remarks if "dark" in r.text]
    assert not [
        r for r in on_black().flat(edited(document, do="set-trace", mode="colours")).remarks if "dark" in r.text
    ]
