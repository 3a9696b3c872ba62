"""How every change of a piece goes: get it, compare its revision, work it out, store it, answer."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, replace
from typing import cast

from flask import Response

from drelo.application import intake
from drelo.core.errors import Refusal
from drelo.core.piece.difference import Difference
from drelo.core.piece.document import Document
from drelo.core.piece.edits import Edit, MoveSheet, Reshape
from drelo.core.piece.flat import Flat
from drelo.core.piece.history.telling import ROWS, told
from drelo.core.piece.merging import meet, together, touched
from drelo.store.blobs import Bytes
from drelo.store.pieces import Conflict, State
from drelo.store.revisions import NotFound
from drelo.web import requests
from drelo.web.bench import bench
from drelo.web.people.who import right
from drelo.web.problems import answer
from drelo.web.replies import bench_reply, change_reply
from drelo.web.schemas.bench import DraftRequest
from drelo.web.schemas.pieces import BenchOut, ConflictProblem, PieceOut
from drelo.words.spoken import sentence


@dataclass(frozen=True)
class Change:
    """An edit worked out: the document that it leads to, its flat view where that is known already, what it brings."""

    edit: Edit
    document: Document
    flat: Flat | None = None
    brings: tuple[Bytes, ...] = ()


def changed(piece: str, revision: int, work: Callable[[State], Change], changes_only: bool = False) -> Response:
    """The answer to a change made on a revision: what became of it, or 409 with what stands now.

    What is refused is not stored. A request that is sent again since its answer was lost is not made twice.
    """
    key = requests.key()
    try:
        state = bench().pieces.get(piece)
        if state.revision != revision:
            return _on_another(piece, revision, state, work, key)
        before = state.document
        change = work(state)
        flat = None if changes_only else change.flat or bench().flat(piece, change.document)
        difference = None if flat else bench().flat_change(piece, before, change.document)
        state = bench().pieces.edit(piece, revision, change.edit, change.document, key, change.brings)
        return _reply(before, _named(state), difference or flat)
    except Conflict as conflict:
        return _made_already(piece, key) or conflict_answer(conflict)


def _on_another(piece: str, revision: int, state: State, work: Callable[[State], Change], key: str | None) -> Response:
    """The answer to a change that was made on an older revision: it is made all the same where both do not meet.

    Raises Conflict where they do.
    """
    if bench().pieces.answered(piece, key) is not None:
        raise Conflict(state)
    try:
        base = bench().pieces.at(piece, revision)
    except NotFound:
        raise Conflict(state) from None
    change = work(replace(state, document=base))
    met = meet(touched(base, change.document), touched(base, state.document))
    if met:
        fields = {".".join(place[:1] + place[2:] if place[0] in ROWS else place) for place in met}
        theirs, mine = (
            tuple(t for t in told(base, made) if _is_of(t.path, fields)) for made in (state.document, change.document)
        )
        raise Conflict(state, theirs, mine)
    merged = together(base, change.document, state.document)
    flat = bench().flat(piece, merged)
    return bench_reply(
        bench().pieces.edit(piece, state.revision, change.edit, merged, key, change.brings), flat, together=True
    )


def _is_of(path: str, fields: Collection[str]) -> bool:
    """Whether something that is told of is one of these fields, holds one or lies in one."""
    return any(path == f or path.startswith(f"{f}.") or f.startswith(f"{path}.") for f in fields)


def moved_along(piece: str, revision: int, *, back: bool, changes_only: bool) -> Response:
    """The answer to a step along the revisions; one whose document cannot be shown is not taken."""
    key = requests.key()
    try:
        beside = bench().pieces.beside(piece, revision, back)
        after = beside.after
        flat = bench().flat_change(piece, beside.before, after) if changes_only else bench().flat(piece, after)
        return _reply(beside.before, bench().pieces.move(piece, revision, beside.revision, key), flat)
    except Conflict as conflict:
        return _made_already(piece, key) or conflict_answer(conflict)


def drafted(piece: str, draft: DraftRequest, lane: str | None = None) -> tuple[Document, Document]:
    """The document of the revision that a draft was made on, and the one that it would lead to; nothing is stored."""
    before = after = bench().pieces.at(piece, draft.revision)
    for edit in (*draft.waiting, draft.edit):
        after = bench().step(piece, after, edit, lane=lane).document
    return before, after


def _reply(before: Document, state: State, flat: Flat | Difference | None) -> Response:
    if isinstance(flat, Difference):
        return change_reply(before, state, flat)
    return bench_reply(state, cast(Flat, flat))


def _made_already(piece: str, key: str | None) -> Response | None:
    """The piece as it stands when this request had been made, and only its answer was lost."""
    state = bench().pieces.answered(piece, key)
    return None if state is None else bench_reply(state, bench().flat(piece, state.document))


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


def conflict_answer(conflict: Conflict) -> Response:
    """409 with the piece as it stands."""
    state: State = conflict.state
    flat = bench().flat(state.id, state.document)
    return answer(
        ConflictProblem(
            type="/problems/changed",
            title="Conflict",
            status=409,
            detail=sentence(Refusal("piece.changed-elsewhere")),
            collision=conflict.collision,
            mine=conflict.mine,
            by=bench().history.head(state.id)[1] if conflict.collision else None,
            bench=BenchOut(piece=PieceOut.of(state, right()), flat=flat),
        )
    )
