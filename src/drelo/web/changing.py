"""How every change of a piece goes: get it, compare its revision, work it out, store it, answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from flask import Response

from drelo.application import intake
from drelo.core.piece.document import Document
from drelo.core.piece.edits import Edit, MoveSheet, Reshape
from drelo.core.piece.flat import Flat
from drelo.store.pieces import Conflict, State
from drelo.web.bench import bench
from drelo.web.problems import answer
from drelo.web.replies import bench_reply, change_reply
from drelo.web.schemas.pieces import BenchOut, ConflictProblem, PieceOut


@dataclass(frozen=True)
class Change:
    """An edit worked out: the document that it leads to, and its flat view where that is known already."""

    edit: Edit
    document: Document
    flat: Flat | None = None


def changed(piece: str, revision: int, work: Callable[[State], Change], changes_only: bool = False) -> Response:
    """The answer to a change made on a revision: what became of it, or 409 with what stands now.

    What is refused is not stored.
    """
    try:
        state = bench().pieces.get(piece)
        if state.revision != revision:
            raise Conflict(state)
        before = state.document
        change = work(state)
        if changes_only:
            difference = bench().flat_change(piece, before, change.document)
            state = _named(bench().pieces.edit(piece, revision, change.edit, change.document))
            return change_reply(before, state, difference)
        flat = change.flat or bench().flat(piece, change.document)
        return bench_reply(_named(bench().pieces.edit(piece, revision, change.edit, change.document)), flat)
    except Conflict as conflict:
        return conflict_answer(conflict)


def _named(state: State) -> State:
    """A piece that nobody has named yet is called by its picture or its words."""
    title = intake.title_from(state.document) if state.name == intake.NAMELESS else None
    return bench().pieces.rename(state.id, title) if title else state


def shaped(piece: str, work: Callable[[State], Reshape | MoveSheet]) -> Callable[[State], Change]:
    """The change that a worked out edit makes."""

    def change(state: State) -> Change:
        step = bench().step(piece, state.document, work(state))
        return Change(step.edit, step.document)

    return change


def moved_along(piece: str, revision: int, go: Callable[[str, int], State], changes_only: bool) -> Response:
    """The answer to a step along the revisions."""
    try:
        before = bench().pieces.get(piece).document
        state = go(piece, revision)
    except Conflict as conflict:
        return conflict_answer(conflict)
    if changes_only:
        return change_reply(before, state, bench().flat_change(piece, before, state.document))
    return bench_reply(state, bench().flat(piece, state.document))


def conflict_answer(conflict: Conflict) -> Response:
    """409 with the piece as it stands."""
    state: State = conflict.state
    flat = bench().flat(state.id, state.document)
    return answer(
        ConflictProblem(
            type="/problems/changed",
            title="Conflict",
            status=409,
            detail="The piece was changed elsewhere in the meantime. What stands now is shown; make the change again.",
            bench=BenchOut(piece=PieceOut.of(state), flat=flat),
        )
    )
