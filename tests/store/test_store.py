"""On a real MariaDB."""

import threading

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text
from sqlalchemy.exc import DataError, IntegrityError

from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT, apply
from drelo.store.blobs import Assets, DerivedBytes
from drelo.store.database import migrate
from drelo.store.models import Base, Piece, Revision
from drelo.store.pieces import Conflict, NotFound, Pieces


@pytest.fixture
def pieces(maker) -> Pieces:
    return Pieces(maker)


def thicker(pieces: Pieces, state, thickness: float):
    edit = EDIT.validate_python({"do": "set-base", "thickness": thickness})
    return pieces.edit(state.id, state.revision, edit, lambda document: apply(document, edit))


def test_migrations_make_what_the_models_say(engine):
    migrate(engine)
    with engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, Base.metadata) == []


def test_server_is_strict_utf8_utc_and_on_loopback(engine):
    with engine.connect() as connection:
        row = connection.execute(
            text("SELECT @@version, @@sql_mode, @@character_set_server, @@time_zone, @@bind_address")
        ).one()
    assert "MariaDB" in row[0]
    assert "STRICT_ALL_TABLES" in row[1]
    assert row[2:] == ("utf8mb4", "+00:00", "127.0.0.1")


def test_names_of_all_scripts_come_back(pieces):
    name = "Äpfel · 梨 · 🐌"
    assert pieces.get(pieces.create(name, Document()).id).name == name


def test_undo_and_redo_walk_the_revisions(pieces):
    first = pieces.create("walk", Document())
    second = thicker(pieces, first, 3)
    third = thicker(pieces, second, 4)
    back = pieces.undo(third.id, third.revision)
    assert (back.document.base.thickness, back.can_undo, back.can_redo) == (3, True, True)
    back = pieces.undo(back.id, back.revision)
    assert (back.document.base.thickness, back.can_undo, back.can_redo) == (2, False, True)
    assert pieces.undo(back.id, back.revision).revision == first.revision
    forth = pieces.redo(back.id, back.revision)
    forth = pieces.redo(forth.id, forth.revision)
    assert (forth.document.base.thickness, forth.can_redo) == (4, False)
    assert pieces.redo(forth.id, forth.revision).revision == third.revision


def test_an_edit_after_undo_begins_a_new_branch(pieces):
    first = pieces.create("branch", Document())
    second = thicker(pieces, first, 3)
    back = pieces.undo(second.id, second.revision)
    other = thicker(pieces, back, 9)
    assert not other.can_redo
    assert pieces.undo(other.id, other.revision).document == first.document
    assert pieces.at(first.id, second.revision).base.thickness == 3


def test_an_edit_on_an_old_revision_changes_nothing(pieces):
    first = pieces.create("conflict", Document())
    second = thicker(pieces, first, 3)
    with pytest.raises(Conflict) as conflict:
        thicker(pieces, first, 8)
    assert conflict.value.state.revision == second.revision
    assert pieces.get(first.id).document.base.thickness == 3


def test_two_edits_at_once_let_one_through(pieces):
    first = pieces.create("race", Document())
    outcomes = []

    def attempt(thickness: float) -> None:
        try:
            outcomes.append(thicker(pieces, first, thickness).document.base.thickness)
        except Conflict:
            outcomes.append(None)

    threads = [threading.Thread(target=attempt, args=(v,)) for v in (3.0, 4.0, 5.0, 6.0)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert outcomes.count(None) == 3
    assert pieces.get(first.id).document.base.thickness in outcomes


def test_an_edit_that_fails_leaves_no_trace(pieces, maker):
    first = pieces.create("fails", Document())

    def broken(_: Document) -> Document:
        raise RuntimeError

    edit = EDIT.validate_python({"do": "set-units", "units": "inch"})
    with pytest.raises(RuntimeError):
        pieces.edit(first.id, first.revision, edit, broken)
    with maker() as session:
        assert session.query(Revision).filter_by(piece_id=first.id).count() == 1


def test_deleted_pieces_come_back(pieces):
    piece = pieces.create("gone", Document())
    pieces.delete(piece.id)
    assert piece.id not in {p.id for p in pieces.all()}
    with pytest.raises(NotFound):
        pieces.get(piece.id)
    assert pieces.restore(piece.id).name == "gone"
    assert piece.id in {p.id for p in pieces.all()}


def test_duplicates_part_ways(pieces):
    piece = thicker(pieces, pieces.create("one", Document()), 5)
    copy = pieces.duplicate(piece.id, "two")
    assert copy.document == piece.document
    assert not copy.can_undo
    thicker(pieces, copy, 7)
    assert pieces.get(piece.id).document.base.thickness == 5


def test_unknown_pieces_are_not_found(pieces):
    for ask in (pieces.get, pieces.delete, pieces.restore):
        with pytest.raises(NotFound):
            ask("nothing")
    with pytest.raises(NotFound):
        pieces.at(pieces.create("x", Document()).id, 10**9)


def test_assets_are_stored_once_and_whole(maker):
    assets = Assets(maker)
    data = bytes(range(256)) * 40_000
    assert assets.put(data, "image/png") == assets.put(data, "image/png")
    assert assets.get(assets.put(data, "image/png")) == data
    assert assets.get("0" * 64) is None


def test_the_largest_picture_fits(maker):
    data = b"\0'\\" * (32 * 2**20 // 3)
    assets = Assets(maker)
    assert assets.get(assets.put(data, "image/png")) == data


def test_derived_bytes_may_be_replaced_and_emptied(maker):
    derived = DerivedBytes(maker)
    derived.put("k" * 64, b"one", "model/stl")
    derived.put("k" * 64, b"two", "model/3mf")
    assert derived.get("k" * 64) == (b"two", "model/3mf")
    assert derived.get("l" * 64) is None


def test_the_database_itself_refuses_nonsense(maker):
    for row, error in (
        (Piece(id="x" * 60, name="too long"), DataError),
        (Revision(piece_id="nobody", document={}), IntegrityError),
    ):
        with maker() as session:
            session.add(row)
            with pytest.raises(error):
                session.flush()
