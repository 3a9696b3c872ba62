"""What need not be kept goes, and nothing else does."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import text, update

from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import PutPicture, SetUnits
from drelo.core.piece.pictures import PlacedPicture
from drelo.store.blobs import Assets, DerivedBytes
from drelo.store.keeping import FRESH, TRASH, WANTED, Keeping
from drelo.store.models import Asset, Derived, Piece, now
from drelo.store.pieces import Pieces
from drelo.store.revisions import NotFound


@pytest.fixture
def tidy(maker):
    """Nothing of other tests stands in the way."""
    with maker.begin() as session:
        session.execute(text("delete from derived"))
        session.execute(text("delete from asset"))
    return Keeping(maker)


def aged(maker, model, column, value, by, **where):
    with maker.begin() as session:
        query = update(model).values({column: value - by})
        for name, wanted in where.items():
            query = query.where(getattr(model, name) == wanted)
        session.execute(query)


def edited(pieces: Pieces, state, edit):
    return pieces.edit(state.id, state.revision, edit, apply(state.document, edit))


def test_a_deleted_piece_can_be_brought_back_for_thirty_days(maker, tidy):
    pieces = Pieces(maker)
    state = pieces.create("Trash", Document())
    for units in ("inch", "mm", "inch"):
        state = edited(pieces, state, SetUnits(units=units))
    pieces.delete(state.id)
    aged(maker, Piece, "deleted", now(), TRASH - timedelta(hours=1), id=state.id)
    assert tidy.sweep(now()).pieces == 0
    assert pieces.restore(state.id).name == "Trash"
    pieces.delete(state.id)
    aged(maker, Piece, "deleted", now(), TRASH + timedelta(hours=1), id=state.id)
    assert tidy.sweep(now()).pieces == 1
    with pytest.raises(NotFound):
        pieces.restore(state.id)
    with maker() as session:
        assert session.execute(text("select count(*) from revision where piece_id = :p"), {"p": state.id}).scalar() == 0
    assert tidy.sweep(now()).pieces == 0


def test_a_demo_piece_leaves_its_name(maker, tidy):
    pieces = Pieces(maker)
    state = pieces.create("Demo", Document())
    with maker.begin() as session:
        session.execute(update(Piece).where(Piece.id == state.id).values(demo="keeping-test"))
    pieces.delete(state.id)
    aged(maker, Piece, "deleted", now(), TRASH + timedelta(hours=1), id=state.id)
    tidy.sweep(now())
    with pytest.raises(NotFound):
        pieces.restore(state.id)
    with maker() as session:
        assert session.execute(text("select count(*) from piece where demo = 'keeping-test'")).scalar() == 1


def test_derived_bytes_go_oldest_first(maker, tidy):
    derived = DerivedBytes(maker)
    for number in range(5):
        derived.put(str(number) * 64, bytes(1000), "model/stl")
        aged(maker, Derived, "created", now(), WANTED + timedelta(minutes=10 - number), key=str(number) * 64)
    derived.put("f" * 64, bytes(2500), "model/stl")
    assert tidy.sweep(now(), quota=4500).derived == 3000
    assert [derived.has(str(n) * 64) for n in range(5)] == [False, False, False, True, True]
    # What was made just now is about to be taken.
    assert tidy.sweep(now(), quota=100).derived == 2000
    assert derived.has("f" * 64)


def test_pictures_stay_as_long_as_any_revision_needs_them(maker, tidy):
    pieces, assets = Pieces(maker), Assets(maker)
    kept, gone, fresh = (assets.put(name, "image/png") for name in (b"kept", b"gone", b"fresh"))
    for sha256 in (kept, gone):
        aged(maker, Asset, "created", now(), FRESH + timedelta(hours=1), sha256=sha256)
    state = pieces.create("Picture", Document())
    source = PlacedPicture(id="s", asset=kept, name="a.png", width=10, height=10)
    state = edited(pieces, state, PutPicture(source=source))
    # Undone, it can still be done again.
    pieces.move(state.id, state.revision, pieces.beside(state.id, state.revision, back=True).revision)
    assert tidy.sweep(now()).assets == 1
    assert assets.get(kept) == b"kept"
    assert assets.get(gone) is None
    assert assets.get(fresh) == b"fresh"
