"""On a real MariaDB."""

import json
import threading

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text
from sqlalchemy.exc import DataError, IntegrityError

from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import DrawnShape
from drelo.core.piece.edits import EDIT
from drelo.store.blobs import Assets, DerivedBytes
from drelo.store.database import migrate
from drelo.store.models import Base, Piece, Revision
from drelo.store.pieces import Conflict, Pieces
from drelo.store.revisions import MOST_STEPS, NotFound


@pytest.fixture
def pieces(maker) -> Pieces:
    return Pieces(maker)


def thicker(pieces: Pieces, state, thickness: float):
    edit = EDIT.validate_python({"do": "set-base", "thickness": thickness})
    return pieces.edit(state.id, state.revision, edit, apply(state.document, edit))


def stepped(pieces: Pieces, state, back: bool):
    return pieces.move(state.id, state.revision, pieces.beside(state.id, state.revision, back).revision)


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
    back = stepped(pieces, third, back=True)
    assert (back.document.base.thickness, back.can_undo, back.can_redo) == (3, True, True)
    back = stepped(pieces, back, back=True)
    assert (back.document.base.thickness, back.can_undo, back.can_redo) == (2, False, True)
    assert stepped(pieces, back, back=True).revision == first.revision
    forth = stepped(pieces, back, back=False)
    forth = stepped(pieces, forth, back=False)
    assert (forth.document.base.thickness, forth.can_redo) == (4, False)
    assert stepped(pieces, forth, back=False).revision == third.revision


def test_an_edit_after_undo_begins_a_new_branch(pieces):
    first = pieces.create("branch", Document())
    second = thicker(pieces, first, 3)
    back = stepped(pieces, second, back=True)
    other = thicker(pieces, back, 9)
    assert not other.can_redo
    assert stepped(pieces, other, back=True).document == first.document
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
    edit = EDIT.validate_python({"do": "set-units", "units": "inch"})
    with pytest.raises(AttributeError):
        pieces.edit(first.id, first.revision, edit, None)
    with maker() as session:
        assert session.query(Revision).filter_by(piece_id=first.id).count() == 1


def many_things(count: int) -> Document:
    things = [
        DrawnShape(id=f"t{i}", form="circle", at=(3.0 * (i % 70), 3.0 * (i // 70)), width=2, height=2)
        for i in range(count)
    ]
    return Document(drawn=tuple(things))


def test_revisions_are_stored_as_what_changed_and_read_whole(pieces, maker):
    state = pieces.create("many", many_things(600))
    mark = {"anchor": (0, 0), "box": (-1, -1, 1, 1)}
    revisions = {state.revision: state.document}
    for number in range(MOST_STEPS + 5):
        height = {"do": "set-regions", "picked": [{"id": f"t{number}-0", "mark": mark}], "height": 1 + number / 10}
        more = DrawnShape(id=f"n{number}", form="circle", at=(0, -9), width=1, height=1)
        other = {"do": "put-drawn", "things": [more.model_dump()]}
        edit = EDIT.validate_python(other if number % 5 == 4 else height)
        state = pieces.edit(state.id, state.revision, edit, apply(state.document, edit))
        revisions[state.revision] = state.document
    with maker() as session:
        rows = session.query(Revision).filter_by(piece_id=state.id).all()
        whole = [r for r in rows if r.document is not None]
        assert len(whole) == 2
        assert max(len(json.dumps(r.change)) for r in rows if r.change is not None) < 2000
    # Another one, that has nothing in memory, reads the same.
    cold = Pieces(maker)
    for revision, document in revisions.items():
        assert cold.at(state.id, revision) == document


def test_the_list_reads_no_document(pieces, maker):
    empty, full = pieces.create("empty", Document()), pieces.create("full", many_things(3))
    cards = {card.id: card for card in Pieces(maker).all()}
    assert cards[empty.id].empty
    assert not cards[full.id].empty
    edit = EDIT.validate_python({"do": "put-drawn", "things": [many_things(1).drawn[0].model_dump()]})
    drawn = pieces.edit(empty.id, empty.revision, edit, apply(Document(), edit))
    assert not {card.id: card for card in pieces.all()}[empty.id].empty
    stepped(pieces, drawn, back=True)
    assert {card.id: card for card in pieces.all()}[empty.id].empty


def test_documents_of_version_1_are_brought_up_once_and_kept(maker):
    asked = []

    def bring_up(former):
        asked.append(former)
        return Document(units=former["units"])

    pieces = Pieces(maker, bring_up)
    state = pieces.create("old", Document())
    former = {"version": 1, "units": "inch", "size": {"side": "width", "mm": 60}}
    with maker.begin() as session:
        session.get(Revision, state.revision).document = former
    for _ in range(2):
        # Nothing in memory, as after a restart.
        assert Pieces(maker, bring_up).get(state.id).document == Document(units="inch")
    assert asked == [former]
    with maker() as session:
        assert session.get(Revision, state.revision).former == former


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
