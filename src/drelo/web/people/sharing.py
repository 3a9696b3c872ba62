"""Blueprint: with whom a piece is shared."""

from __future__ import annotations

import secrets

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag

from drelo.core.errors import Refusal
from drelo.store.models import now
from drelo.store.revisions import NotFound
from drelo.web.bench import bench
from drelo.web.people.listening import MOST_LISTENING, listened, told_here
from drelo.web.people.who import person
from drelo.web.people.workshop import note, user
from drelo.web.problems import later
from drelo.web.replies import reply
from drelo.web.schemas.base import PiecePath, Problem
from drelo.web.schemas.people import (
    GiveTo,
    HereOut,
    LinkOut,
    NameOut,
    OpenTo,
    PeopleNames,
    SharedWith,
    SharePath,
    ShareWith,
    SharingOut,
)
from drelo.work.workers import nobody_left

blueprint = APIBlueprint(
    "sharing", __name__, url_prefix="/api", abp_tags=[Tag(name="people")], abp_responses={404: Problem, 422: Problem}
)


@blueprint.get("/people/names", operation_id="peopleNames", responses={200: PeopleNames})
def names() -> Response:
    """Everybody else whom one can share with."""
    me = person()
    others = [p for p in bench().accounts.all() if not p.closed and (me is None or p.id != me.id)]
    return reply(PeopleNames(people=[NameOut(id=p.id, title=p.title, role=p.role) for p in others]))


@blueprint.get("/pieces/<piece_id>/sharing", operation_id="sharing", responses={200: SharingOut})
def of(path: PiecePath) -> Response:
    """With whom a piece is shared."""
    return _sharing(path.piece_id)


@blueprint.put("/pieces/<piece_id>/sharing", operation_id="openTo", responses={200: SharingOut})
def open_to(path: PiecePath, body: OpenTo) -> Response:
    """Open a piece to the whole workshop, to look at or to work on, or close it again."""
    bench().shares.open_to(path.piece_id, body.openness)
    note("opened a piece", f"{bench().pieces.title(path.piece_id)}: {body.openness}")
    return _sharing(path.piece_id)


@blueprint.put("/pieces/<piece_id>/sharing/<account>", operation_id="shareWith", responses={200: SharingOut})
def share(path: SharePath, body: ShareWith) -> Response:
    """Share a piece with one person, or no longer."""
    bench().shares.share(path.piece_id, path.account, body.right)
    who = bench().accounts.get(path.account)
    note("shared a piece", f"{bench().pieces.title(path.piece_id)} with {who.title if who else '?'}: {body.right}")
    return _sharing(path.piece_id)


@blueprint.post("/pieces/<piece_id>/owner", operation_id="givePiece", responses={204: None})
def give(path: PiecePath, body: GiveTo) -> Response:
    """Make a piece somebody else's."""
    bench().shares.give(path.piece_id, body.account)
    who = bench().accounts.get(body.account)
    note("gave a piece away", f"{bench().pieces.title(path.piece_id)} to {who.title if who else '?'}")
    return Response(status=204)


@blueprint.post("/pieces/<piece_id>/link", operation_id="makeLink", responses={200: LinkOut})
def make_link(path: PiecePath) -> Response:
    """A link by which anybody may look at the piece; the one before works no more."""
    token = secrets.token_urlsafe(24)
    bench().shares.set_link(path.piece_id, token)
    note("made a link", bench().pieces.title(path.piece_id))
    return reply(LinkOut(token=token))


@blueprint.delete("/pieces/<piece_id>/link", operation_id="dropLink", responses={200: SharingOut})
def drop_link(path: PiecePath) -> Response:
    """The piece's link works no more."""
    bench().shares.set_link(path.piece_id, None)
    note("ended a link", bench().pieces.title(path.piece_id))
    return _sharing(path.piece_id)


@blueprint.post("/pieces/<piece_id>/here", operation_id="here", responses={200: HereOut})
def here(path: PiecePath) -> Response:
    """Say that one has a piece open: who else has, and at which revision it stands."""
    me = person()
    assert me is not None, "the table of rights lets nobody else in"
    bench().presence.here(path.piece_id, me.id, now())
    news = bench().news([path.piece_id]).get(path.piece_id)
    if news is None:
        raise NotFound
    return reply(told_here(bench(), news, me.id))


@blueprint.get("/pieces/<piece_id>/events", operation_id="pieceEvents", responses={200: None, 503: Problem})
def events(path: PiecePath) -> Response:
    """What `here` tells, as server-sent events: at once, and whenever something of it changes. One has the piece open
    while they last. Where too many listen already, 503: ask again by `here`."""
    me, signed_in = person(), user()
    assert me is not None, "the table of rights lets nobody else in"
    assert signed_in is not None, "who is somebody has signed in"
    if len(bench().watching) >= MOST_LISTENING:
        return later(Refusal("request.too-many-listen"), 30)
    gone = request.environ.get("waitress.client_disconnected", nobody_left)
    response = Response(listened(bench(), path.piece_id, me, signed_in.token, gone), mimetype="text/event-stream")
    response.headers["X-Accel-Buffering"] = "no"
    return response


def _sharing(piece_id: str) -> Response:
    found = bench().shares.of(piece_id)
    titles = {p.id: p.title for p in bench().accounts.all()}
    people = [
        SharedWith(account=account, title=titles.get(account, "?"), right=right)
        for account, right in found.people.items()
    ]
    owner = titles.get(found.owner or "")
    by_title = sorted(people, key=lambda p: p.title)
    return reply(SharingOut(owner=owner, openness=found.openness, people=by_title, link=found.link))
