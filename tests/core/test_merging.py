"""Changes that do not meet give the same document in either order; those that do are known."""

from __future__ import annotations

from hypothesis import assume, given
from hypothesis import strategies as st

from drelo.core.errors import Refusal
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT
from drelo.core.piece.merging import meet, together, touched
from tests.core.test_edits import begun, edits

SHAPE = {"kind": "shape", "form": "circle", "at": [0, 0], "width": 5, "height": 5}
name = st.integers(0, 4)
drawing = st.one_of(
    st.builds(
        lambda i, w: {"do": "put-drawn", "things": [{**SHAPE, "id": f"d{i}", "width": w}]},
        st.integers(0, 4),
        st.floats(1, 9),
    ),
    st.builds(
        lambda i, n: {"do": "mark-drawn", "ids": [f"d{i}"], "name": n}, st.integers(0, 4), st.sampled_from(["a", "b"])
    ),
    st.builds(
        lambda i, t: {"do": "order-drawn", "ids": [f"d{i}"], "to": t},
        st.integers(0, 4),
        st.sampled_from(["top", "bottom"]),
    ),
)
any_edit = st.one_of(edits, drawing)


def after(document: Document, edit: dict) -> Document:
    return apply(document, EDIT.validate_python(edit))


def state(document: Document) -> dict:
    """All of a document; rows that came at the same time have no order among each other."""
    told = document.model_dump(mode="json")
    for rows in ("pictures", "drawn", "regions", "filaments"):
        told[rows] = sorted(told[rows], key=lambda row: row["id"])
    return told


@given(st.lists(any_edit, max_size=6), any_edit, any_edit)
def test_edits_that_do_not_meet_give_the_same_in_either_order(steps, mine, theirs):
    document = begun()
    for step in steps:
        try:
            document = after(document, step)
        except Refusal:
            continue
    try:
        one, other = after(document, mine), after(document, theirs)
    except Refusal:
        assume(False)
    assume(not meet(touched(document, one), touched(document, other)))
    merged = together(document, one, other)
    assert state(merged) == state(together(document, other, one))
    # All that either changed is there, and nothing else.
    assert touched(other, merged) == touched(document, one)
    assert touched(one, merged) == touched(document, other)
    assert Document.model_validate(merged.model_dump()) == merged


def test_the_same_number_meets_and_another_one_does_not():
    document = begun()
    thick = touched(document, after(document, {"do": "set-base", "thickness": 3}))
    thicker = touched(document, after(document, {"do": "set-base", "thickness": 4}))
    wide = touched(document, after(document, {"do": "set-base", "margin": 9}))
    assert meet(thick, thicker) == {("base", "thickness")}
    assert not meet(thick, wide)


def test_what_is_gone_meets_whatever_changes_it():
    document = after(begun(), {"do": "put-drawn", "things": [{**SHAPE, "id": "d"}, {**SHAPE, "id": "e"}]})
    named = touched(document, after(document, {"do": "mark-drawn", "ids": ["d"], "name": "Sun"}))
    other = touched(document, after(document, {"do": "mark-drawn", "ids": ["e"], "name": "Moon"}))
    gone = touched(document, document.model_copy(update={"drawn": document.drawn[1:]}))
    assert meet(named, gone) == {("drawn", "d", "name")}
    assert not meet(other, gone)
