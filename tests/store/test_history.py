"""The past of pieces: told in words, named, gone back to, thinned out."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import update

from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import DrawnShape
from drelo.core.piece.edits import PutDrawn, SetBase, SetUnits
from drelo.core.piece.history.lines import lines
from drelo.core.piece.history.thinning import EVERY
from drelo.store.history import History
from drelo.store.models import Revision, now
from drelo.store.pieces import Conflict, Pieces
from drelo.store.revisions import MOST_STEPS, NotFound


@pytest.fixture
def pieces(maker):
    return Pieces(maker)


@pytest.fixture
def history(maker, pieces):
    return History(maker, pieces.revisions)


def edited(pieces, state, edit, request=None):
    return pieces.edit(state.id, state.revision, edit, apply(state.document, edit), request)


def grown(pieces, steps):
    """A piece whose base got thicker step by step; the states, oldest first."""
    states = [pieces.create("Grown", Document())]
    for i in range(steps):
        states.append(edited(pieces, states[-1], SetBase(thickness=round(2 + 0.1 * (i + 1), 4))))
    return states


def made(maker, revisions, moments):
    with maker.begin() as session:
        for revision, moment in zip(revisions, moments, strict=True):
            session.execute(update(Revision).where(Revision.id == revision).values(created=moment))


def test_the_past_is_told_in_words_the_newest_first(pieces, history):
    states = grown(pieces, 3)
    edited(pieces, states[-1], SetUnits(units="inch"))
    past = history.past(states[0].id)
    assert [s.told[0].what for s in past.steps] == ["Units", *["Base thickness"] * 3, "Begun"]
    found = lines(past.steps)
    assert [len(line.steps) for line in found] == [1, 3, 1]
    assert (found[1].told[0].before, found[1].told[0].after) == (2.0, 2.3)
    assert past.shown == past.steps[0].revision


def test_what_was_undone_is_ahead_and_what_was_left_is_aside(pieces, history):
    states = grown(pieces, 3)
    pieces.move(states[0].id, states[3].revision, states[2].revision)
    where = history.past(states[0].id).where
    assert [where[s.revision] for s in states] == ["past", "past", "past", "ahead"]
    other = edited(pieces, states[2], SetUnits(units="inch"))
    where = history.past(states[0].id).where
    assert where[states[3].revision] == "aside"
    assert where[other.revision] == "past"


def test_going_back_is_a_new_version_and_loses_nothing(pieces, history):
    states = grown(pieces, 3)
    history.name(states[0].id, states[1].revision, "First print")
    back = pieces.go_back(states[0].id, states[3].revision, states[1].revision, "key")
    assert back.document == states[1].document
    assert back.revision > states[3].revision
    past = history.past(back.id)
    assert (past.steps[0].told[0].what, past.steps[0].told[0].after) == ("Went back to", "First print")
    assert set(past.where.values()) == {"past"}
    # Sent again since its answer was lost, it is not made twice; on an old revision it is a conflict.
    assert pieces.answered(back.id, "key").revision == back.revision
    with pytest.raises(Conflict):
        pieces.go_back(back.id, states[3].revision, states[0].revision)
    with pytest.raises(NotFound):
        pieces.go_back(back.id, back.revision, grown(pieces, 0)[0].revision)


def test_only_revisions_of_the_piece_are_named(pieces, history):
    one, other = grown(pieces, 1), grown(pieces, 1)
    with pytest.raises(NotFound):
        history.name(one[0].id, other[0].revision, "Mine")
    history.name(one[0].id, one[0].revision, "Mine")
    assert history.step(one[0].id, one[0].revision).name == "Mine"
    history.name(one[0].id, one[0].revision, None)
    assert history.step(one[0].id, one[0].revision).name is None


def test_old_steps_thin_out_and_every_document_that_stays_is_as_it_was(maker, pieces, history):
    count = 2 * MOST_STEPS + 20
    states = grown(pieces, count)
    history.name(states[0].id, states[7].revision, "Kept")
    # A step a minute, long ago; the last ten are of today.
    begin = now() - timedelta(seconds=EVERY, days=3)
    old = states[:-10]
    made(maker, [s.revision for s in old], [begin + timedelta(minutes=i) for i in range(len(old))])
    assert history.thin(now()) > count / 2
    assert history.thin(now()) == 0
    fresh = Pieces(maker)
    left = History(maker, fresh.revisions).past(states[0].id)
    by_revision = {s.revision: s.document for s in states}
    kept = {s.revision for s in left.steps}
    assert {states[0].revision, states[7].revision, *(s.revision for s in states[-10:])} <= kept
    for revision in kept:
        assert fresh.at(states[0].id, revision) == by_revision[revision]
    # What a step that stayed changed is told from the one that stayed before it.
    for later, earlier in zip(left.steps, left.steps[1:], strict=False):
        assert later.parent == earlier.revision
        assert later.told[0].before == by_revision[earlier.revision].base.thickness
    # Undo goes on along what stayed.
    beside = fresh.beside(states[0].id, states[-1].revision, back=True)
    assert beside.after == states[-2].document


def test_steps_that_were_made_before_they_were_told_have_words_all_the_same(maker, pieces, history):
    states = grown(pieces, 1)
    with maker.begin() as session:
        session.execute(update(Revision).where(Revision.id == states[1].revision).values(told=None))
    assert [s.told[0].what for s in history.past(states[0].id).steps] == ["Set base", "Begun"]


def test_many_changes_at_once_are_told_first_and_counted(pieces, history):
    state = pieces.create("Many", Document())
    things = tuple(
        DrawnShape(id=f"c{i}", name=f"Dot {i}", form="circle", at=(i, 0), width=1 + i, height=1 + i) for i in range(20)
    )
    state = edited(pieces, state, PutDrawn(things=things))
    larger = tuple(t.model_copy(update={"width": t.width * 2, "height": t.height * 3}) for t in things)
    state = edited(pieces, state, PutDrawn(things=larger))
    step = history.past(state.id).steps[0]
    assert len(step.told) == 6
    assert step.more == 34
