"""Edits in any order: documents stay valid, nothing is changed in place, and what was typed is what is built."""

import json

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.solid.seal import check_seal
from tests.piece import picture_of, worked

SOURCE = PlacedPicture(id="s", asset="a" * 64, name="ring.png", width=420, height=300)
MARK = {"anchor": (50.0, 50.0), "box": (10.0, 10.0, 90.0, 90.0)}

colour = st.sampled_from(["#c8553d", "#1d3557", "#3f6b3a"])
edits = st.one_of(
    st.builds(lambda v: {"do": "set-trace", "level": v}, st.floats(0, 1)),
    st.builds(lambda v: {"do": "set-trace", "mode": v}, st.sampled_from(["ink", "colours", "strokes"])),
    st.builds(lambda v: {"do": "set-trace", "colours": v}, st.integers(2, 24)),
    st.builds(lambda a, b: {"do": "set-trace", "palette": [[a], [b]]}, colour, colour),
    st.builds(lambda v: {"do": "set-trace", "keen": v, "smooth": v}, st.floats(0, 1)),
    st.builds(lambda v: {"do": "set-base", "margin": v}, st.floats(0, 20)),
    st.builds(lambda v: {"do": "set-base", "shape": v}, st.sampled_from(["outline", "rectangle", "circle", "none"])),
    st.builds(
        lambda v: {"do": "place-picture", "place": {"mm_per_px": v, "at": [v, -v], "turn": v}}, st.floats(0.1, 9)
    ),
    st.builds(lambda v: {"do": "mark-picture", "hidden": v}, st.booleans()),
    st.builds(lambda v: {"do": "set-units", "units": v}, st.sampled_from(["mm", "inch"])),
    st.builds(lambda v: {"do": "set-defaults", "height": v}, st.floats(-5, 20)),
    st.builds(
        lambda i, h: {"do": "set-regions", "picked": [{"id": f"r{i}", "mark": MARK}], "height": h},
        st.integers(0, 4),
        st.one_of(st.floats(-2, 9), st.just("through")),
    ),
    st.builds(lambda c: {"do": "set-filament", "id": "own", "name": "Own", "colour": c}, colour),
    st.builds(lambda b: {"do": "set-care", "care": [{"do": "crop", "box": b}]}, st.just((5.0, 5.0, 300.0, 200.0))),
    st.just({"do": "set-care", "care": []}),
    st.builds(lambda s: {"do": "switch-care", "at": 0, "state": s}, st.sampled_from(["on", "off", "gone"])),
    st.builds(lambda i: {"do": "add-area", "id": f"a{i}", "corners": [[5, 5], [200, 9], [90, 180]]}, st.integers(0, 3)),
    st.builds(lambda i, v: {"do": "set-trace", "area": f"a{i}", "level": v}, st.integers(0, 3), st.floats(0, 1)),
    st.builds(lambda i: {"do": "drop-area", "id": f"a{i}"}, st.integers(0, 3)),
    st.builds(
        lambda d, i: {"do": d, "id": f"t{i}"}, st.sampled_from(["keep-attempt", "choose-attempt"]), st.integers(0, 2)
    ),
    st.builds(lambda on: {"do": "set-tracing", "on": on}, st.booleans()),
    st.builds(
        lambda i, c: {
            "do": "set-pen",
            "line": {
                "id": f"p{i}",
                "name": "Line",
                "start": [9, 9],
                "stretches": [{"kind": "straight", "to": [99, 9]}, {"kind": "through", "to": [50, 90]}],
                "closed": c,
            },
        },
        st.integers(0, 2),
        st.booleans(),
    ),
    st.builds(lambda i: {"do": "drop-pen", "id": f"p{i}"}, st.integers(0, 2)),
    st.builds(lambda v: {"do": "set-source", "permission": v}, st.sampled_from(["mine", "free", "asked"])),
)


def begun() -> Document:
    return apply(Document(), EDIT.validate_python({"do": "put-picture", "source": SOURCE.model_dump()}))


@given(st.lists(edits, max_size=12))
def test_documents_stay_valid_and_travel_as_json(steps):
    document = begun()
    for step in steps:
        before = document.model_dump_json()
        try:
            after = apply(document, EDIT.validate_python(step))
        except Refusal:
            # It names an area, an attempt or a step that is not there.
            after = document
        assert document.model_dump_json() == before
        document = after
    again = Document.model_validate(json.loads(document.model_dump_json()))
    assert again == document


@given(edits)
def test_the_same_edit_twice_changes_nothing_more(step):
    edit = EDIT.validate_python(step)
    try:
        once = apply(begun(), edit)
    except Refusal:
        assume(False)
    twice = apply(once, edit)
    assert twice.model_dump(exclude={"regions"}) == once.model_dump(exclude={"regions"})


@given(edits)
def test_edits_travel_as_json(step):
    edit = EDIT.validate_python(step)
    assert EDIT.validate_json(EDIT.dump_json(edit, exclude_unset=True)) == edit


@pytest.mark.parametrize(
    "edit",
    [
        {"do": "set-scale", "points": [[0, 0], [9, 0]], "mm": 0},
        {"do": "place-picture", "place": {"mm_per_px": 0}},
        {"do": "move-sheet", "matrix": [1, 0, 0, 2, 0, 0]},
        {"do": "set-base", "shape": "star"},
        {"do": "set-base", "margin": -1000},
        {"do": "set-base", "diameter": 0},
        {"do": "set-defaults", "height": "deep"},
        {"do": "set-regions", "picked": [], "height": 1},
        {"do": "set-filament", "id": "x", "name": "X", "colour": "red"},
        {"do": "set-filament", "id": "no spaces", "name": "X", "colour": "#000000"},
        {"do": "set-trace", "palette": [["#ffffff"]]},
        {"do": "dance"},
    ],
)
def test_edits_that_make_no_sense_never_get_that_far(edit):
    with pytest.raises((Refusal, ValueError)):
        apply(begun(), EDIT.validate_python(edit))


@pytest.mark.parametrize("side", ["width", "height"])
@pytest.mark.parametrize("mm", [12.5, 60, 180])
@pytest.mark.parametrize("mode", ["ink", "colours"])
def test_the_typed_side_is_exact_in_the_file(ring_png, side, mm, mode):
    document = begun()
    evaluation = Evaluation(lambda _: ring_png, Memo())
    for step in ({"do": "set-trace", "mode": mode}, {"do": "set-base", "shape": "none"}):
        document = apply(document, EDIT.validate_python(step))
    document = worked(evaluation, document, do="set-size", side=side, mm=mm)
    whole = evaluation.made(document, 0.008).whole
    assert check_seal(whole).sealed
    assert whole.size[0 if side == "width" else 1] == pytest.approx(mm, abs=1e-3)


def test_regions_of_the_flat_view_keep_their_order_and_names(ring_png):
    evaluation = Evaluation(lambda _: ring_png, Memo())
    flat = evaluation.flat(begun())
    assert [r.name for r in flat.regions] == ["Region 1", "Region 2"]
    assert flat.regions[0].area > flat.regions[1].area
    assert flat.nodes == sum(r.nodes for r in flat.regions)
    assert flat.width == pytest.approx(350, abs=1)


# Picture care moves what lies on the picture


care = st.lists(
    st.one_of(
        st.builds(
            lambda x, y: {"do": "crop", "box": [x + 0.2, y + 0.3, 260, 200]}, st.integers(0, 100), st.integers(0, 80)
        ),
        st.builds(lambda a: {"do": "level", "start": [10, 10], "end": [210, 10 + a]}, st.floats(-60, 60)),
        st.builds(
            lambda x: {"do": "flatten", "corners": [[5 + x, 6], [250, 9], [240, 180], [9, 170 - x]]}, st.floats(0, 30)
        ),
        st.just({"do": "rub", "points": [[40, 50], [60, 55]], "radius": 8}),
        st.just({"do": "even"}),
    ),
    min_size=1,
    max_size=4,
)


def with_things_on_it() -> Document:
    document = apply(
        begun(), EDIT.validate_python({"do": "add-area", "id": "a", "corners": [[40, 40], [120, 45], [80, 99]]})
    )
    line = {"id": "p", "name": "Line", "start": [50, 60], "stretches": [{"kind": "straight", "to": [90, 70]}]}
    return apply(document, EDIT.validate_python({"do": "set-pen", "line": line}))


def places(document: Document) -> list[tuple[float, float]]:
    picture = picture_of(document)
    (area,), (line,) = picture.areas, picture.pen
    return [*area.corners, line.start, line.stretches[0].to]


@given(care, st.integers(0, 3))
def test_a_step_of_care_taken_back_and_done_again_leaves_everything_where_it_was(steps, at):
    document = with_things_on_it()
    try:
        cared = apply(document, EDIT.validate_python({"do": "set-care", "care": steps}))
    except Refusal:
        assume(False)
    at = at % len(steps)
    off = apply(cared, EDIT.validate_python({"do": "switch-care", "at": at, "state": "off"}))
    assert [s.off for s in picture_of(off).care] == [i == at for i in range(len(steps))]
    on = apply(off, EDIT.validate_python({"do": "switch-care", "at": at, "state": "on"}))
    for was, now in zip(places(cared), places(on), strict=True):
        assert now == pytest.approx(was, abs=0.05)
    gone = apply(cared, EDIT.validate_python({"do": "switch-care", "at": at, "state": "gone"}))
    assert picture_of(gone).look == picture_of(off).look
    assert np.array(places(gone)) == pytest.approx(np.array(places(off)))


@given(care)
def test_without_any_care_everything_lies_as_on_the_original(steps):
    document = with_things_on_it()
    try:
        cared = apply(document, EDIT.validate_python({"do": "set-care", "care": steps}))
    except Refusal:
        assume(False)
    back = apply(cared, EDIT.validate_python({"do": "set-care", "care": []}))
    for was, now in zip(places(document), places(back), strict=True):
        assert now == pytest.approx(was, abs=0.05)
    assert picture_of(back).care == ()
