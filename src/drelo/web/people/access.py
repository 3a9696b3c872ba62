"""Who may ask for which address. What is not in the table is nobody's."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from flask import Flask, Response, g, request

from drelo.core.errors import Refusal
from drelo.core.people.rights import Right, Role
from drelo.store.accounts import Person
from drelo.store.author import author
from drelo.store.plan_shelf import NoPlan
from drelo.store.revisions import NotFound
from drelo.web.bench import bench
from drelo.web.people.workshop import user
from drelo.web.problems import problem

Who = Literal["everybody", "signed in", "maker", "keeper", "nobody"]


@dataclass(frozen=True)
class Need:
    """who: the least role. piece: the least right on the piece in the address. plan: it must be one's own."""

    who: Who
    piece: Right = Right.NONE
    plan: bool = False


EVERYBODY, SIGNED_IN, MAKER, KEEPER, NOBODY = (
    Need(who) for who in ("everybody", "signed in", "maker", "keeper", "nobody")
)
LOOK, EDIT, OWN = (Need("signed in", right) for right in (Right.LOOK, Right.EDIT, Right.OWN))
LOOK_AND_MAKE = Need("maker", Right.LOOK)
PLAN = Need("maker", plan=True)

NEEDS: Mapping[str, Need] = {
    # the page itself, and signing in
    "pages.page": EVERYBODY,
    "pages.asset": EVERYBODY,
    "pages.health": EVERYBODY,
    "pages.ready": EVERYBODY,
    "accounts.me": EVERYBODY,
    "accounts.sign_in": EVERYBODY,
    "accounts.sign_out": SIGNED_IN,
    "accounts.invitation": EVERYBODY,
    "accounts.accept": EVERYBODY,
    "accounts.by_link": EVERYBODY,
    "accounts.usage": SIGNED_IN,
    "accounts.rename": SIGNED_IN,
    "accounts.password": SIGNED_IN,
    "accounts.browsers": SIGNED_IN,
    "accounts.end_browser": SIGNED_IN,
    "accounts.end_others": SIGNED_IN,
    "accounts.begin_factor": SIGNED_IN,
    "accounts.take_factor": SIGNED_IN,
    "accounts.drop_factor": SIGNED_IN,
    # keeping the workshop
    "workshop.people": KEEPER,
    "workshop.change": KEEPER,
    "workshop.invite": KEEPER,
    "workshop.password_link": KEEPER,
    "workshop.withdraw": KEEPER,
    "workshop.record": KEEPER,
    "workshop.work": KEEPER,
    "storage.storage": KEEPER,
    "storage.empty": KEEPER,
    "metrics": KEEPER,
    # sharing
    "sharing.names": SIGNED_IN,
    "sharing.here": LOOK,
    "sharing.events": LOOK,
    "sharing.of": OWN,
    "sharing.open_to": OWN,
    "sharing.share": OWN,
    "sharing.give": OWN,
    "sharing.make_link": OWN,
    "sharing.drop_link": OWN,
    # by a link that holds 192 random bits
    "visitors.shown": EVERYBODY,
    "visitors.solid": EVERYBODY,
    # the API's own page
    "pages.description": SIGNED_IN,
    "api-page.page": SIGNED_IN,
    "api-page.script": SIGNED_IN,
    "api-page.shipped": SIGNED_IN,
    # pieces: the list holds those that one may look at
    "pieces.list_pieces": SIGNED_IN,
    "pieces.new_piece": MAKER,
    "pieces.begin_with_picture": MAKER,
    "pieces.begin_with_recipe": MAKER,
    "archives.begin_with_archive": MAKER,
    "pieces.open_piece": LOOK,
    "pieces.piece_head": LOOK,
    "pieces.piece_thumbnail": LOOK,
    "pieces.rename_piece": EDIT,
    "pieces.duplicate_piece": LOOK_AND_MAKE,
    "pieces.delete_piece": OWN,
    "pieces.restore_piece": OWN,
    "archives.export_archive": LOOK,
    # changes
    "edits.edit_piece": EDIT,
    "edits.put_picture": EDIT,
    "edits.undo": EDIT,
    "edits.redo": EDIT,
    "cabinet.take_motif": EDIT,
    "motifs.place": EDIT,
    "shape.place_drawing": EDIT,
    "shape.bring_font": EDIT,
    # what is worked out and not stored
    "edits.preview_flat": LOOK,
    "looks.preview_solid": LOOK,
    "looks.solid": LOOK,
    "looks.attempt": LOOK,
    "looks.way": LOOK,
    "looks.cling": LOOK,
    "looks.look_over": LOOK,
    "looks.outcome": LOOK,
    "looks.outcome_png": LOOK,
    "looks.piece_underlay": LOOK,
    "shape.joining": LOOK,
    "shape.leak": LOOK,
    "shape.look_at_drawing": LOOK,
    "shape.read_words": LOOK,
    "shape.take_outlines": LOOK,
    "files.take_away": LOOK,
    "files.take_recipe": LOOK,
    "files.file_weight": LOOK,
    "many.make_one": LOOK,
    "many.make_bed": LOOK,
    "many.lay_names": LOOK,
    "many.pack": LOOK,
    "rehearsals.rehearse": LOOK,
    "rehearsals.underway_of": LOOK,
    # the past
    "versions.list_versions": LOOK,
    "versions.look_at_version": LOOK,
    "versions.version_figures": LOOK,
    "versions.name_version": EDIT,
    "versions.go_back": EDIT,
    "versions.begin_from_version": LOOK_AND_MAKE,
    # files by a name of 256 bits that follows from what they are made of
    "files.file": SIGNED_IN,
    "many.packed": SIGNED_IN,
    "rehearsals.kept": SIGNED_IN,
    "rehearsals.pattern": SIGNED_IN,
    "looks.underlay": NOBODY,
    # shelves of the workshop
    "cabinet.listing": SIGNED_IN,
    "cabinet.motif_picture": SIGNED_IN,
    "shape.fonts": SIGNED_IN,
    "many.names": SIGNED_IN,
    "motifs.listing": SIGNED_IN,
    "motifs.as_svg": SIGNED_IN,
    "motifs.keep": MAKER,
    "motifs.bring": MAKER,
    "motifs.drop": MAKER,
    "filaments.listing": SIGNED_IN,
    "filaments.put": MAKER,
    "filaments.drop": MAKER,
    "rehearsals.printers": SIGNED_IN,
    "rehearsals.put": MAKER,
    "rehearsals.drop": MAKER,
    # beds and the printer
    "beds.plans": SIGNED_IN,
    "beds.new": MAKER,
    "beds.one": PLAN,
    "beds.put": PLAN,
    "beds.drop": PLAN,
    "beds.restore": PLAN,
    "beds.file": PLAN,
    "beds.rehearse": PLAN,
    "printing.print_bed": PLAN,
    "printing.print_piece": LOOK_AND_MAKE,
    "printing.device": SIGNED_IN,
    "printing.prints": SIGNED_IN,
    "printing.act": MAKER,
    "printing.pace": MAKER,
}
_ROLES: Mapping[Who, frozenset[Role]] = {
    "signed in": frozenset({"keeper", "maker", "guest"}),
    "maker": frozenset({"keeper", "maker"}),
    "keeper": frozenset({"keeper"}),
}


def install(app: Flask) -> None:
    """Hold every request against the table."""

    @app.before_request
    def allowed() -> Response | None:
        if request.endpoint is None:
            return None
        need = NEEDS.get(request.endpoint, NOBODY)
        now = user()
        me = g.person = None if now is None else now.person
        author_set = author.set(me.id if me else None)
        g.author_set = author_set
        if need.who == "everybody":
            return None
        if need.who == "nobody":
            return _refused()
        if me is None:
            return problem(401, Refusal("right.not-signed-in"), kind="/problems/sign-in")
        if me.role not in _ROLES[need.who]:
            return _refused()
        return _on_piece(me, need) or _on_plan(me, need)

    @app.teardown_request
    def forget(_: BaseException | None) -> None:
        held = g.pop("author_set", None)
        if held is not None:
            author.reset(held)


def _on_piece(me: Person, need: Need) -> Response | None:
    if need.piece == Right.NONE:
        return None
    right = g.right = bench().shares.right(me, (request.view_args or {})["piece_id"])
    if right == Right.NONE:
        # Whether it is there is not told.
        raise NotFound
    if right < need.piece:
        why = Refusal("right.only-looks") if need.piece == Right.EDIT else Refusal("right.not-owner")
        return problem(403, why, kind="/problems/right")
    return None


def _on_plan(me: Person, need: Need) -> Response | None:
    if not need.plan:
        return None
    plan = (request.view_args or {})["plan"]
    if plan not in bench().shares.plans(me.id):
        raise NoPlan(plan)
    return None


def _refused() -> Response:
    return problem(403, Refusal("right.role"), kind="/problems/role")
