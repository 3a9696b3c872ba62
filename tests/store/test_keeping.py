"""What need not be kept goes, and nothing else does."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import text, update

from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import PutPicture, SetUnits
from drelo.core.piece.pictures import PlacedPicture
from drelo.store.blobs import WANTED, Assets, DerivedBytes
from drelo.store.keeping import FRESH, TRASH, Keeping
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
        aged(maker, Derived, "wanted", now(), timedelta(minutes=1), key=str(number) * 64)
    derived.put("f" * 64, bytes(2500), "model/stl")
    assert tidy.trim(now(), quota=4500) == 3000
    assert [derived.has(str(n) * 64) for n in range(5)] == [False, False, False, True, True]
    # What was made just now is about to be taken.
    assert tidy.sweep(now(), quota=100).derived == 2000
    assert derived.has("f" * 64)


def test_what_was_made_in_passing_goes_sooner_unless_it_is_asked_for(maker, tidy):
    derived = DerivedBytes(maker)
    derived.put("a" * 64, bytes(1000), "model/stl")
    short = {f"{n}" * 64: bytes(1000) for n in range(3)}
    derived.put_all(short, "application/json", timedelta(minutes=10))
    derived.want("2" * 64)
    assert derived.has(*short)
    assert tidy.trim(now() + timedelta(minutes=9), quota=0) == 0
    assert tidy.trim(now() + timedelta(minutes=11), quota=0) == 2000
    assert [derived.has(key) for key in ("a" * 64, *short)] == [True, False, False, True]
    assert not derived.has(*short)
    # Rows of before, of which nothing is known, go like any others.
    with maker.begin() as session:
        session.execute(update(Derived).values(wanted=None))
    assert tidy.trim(now(), quota=1500) == 1000


def test_many_bytes_are_kept_at_once_and_again(maker, tidy, monkeypatch):
    monkeypatch.setattr("drelo.store.blobs.PACKET", 5000)
    derived = DerivedBytes(maker)
    found = {f"{n:064d}": bytes([n]) * (200 * n) for n in range(40)}
    derived.put_all(found, "text/plain")
    assert {key: derived.get(key) for key in found} == {key: (data, "text/plain") for key, data in found.items()}
    derived.put_all(dict.fromkeys(found, b"new"), "application/json")
    assert {derived.get(key) for key in found} == {(b"new", "application/json")}
    derived.put_all({}, "text/plain")
    assert derived.has()


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
