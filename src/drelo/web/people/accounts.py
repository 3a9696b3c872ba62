"""Blueprint: signing in and out, invitations, and one's own account."""

from __future__ import annotations

import io

import segno
from flask import Response, g, make_response, request, session
from flask_login import login_user, logout_user
from flask_openapi3 import APIBlueprint, Tag
from flask_wtf.csrf import generate_csrf

from drelo.application import people
from drelo.application.people import CodeWanted
from drelo.core.errors import Refusal
from drelo.core.people.limits import Used
from drelo.store.accounts import Person, hashed
from drelo.web.bench import bench
from drelo.web.people.limits import limits_of, today
from drelo.web.people.who import person, shared
from drelo.web.people.workshop import (
    GUESSES_OF_ADDRESS,
    GUESSES_OF_NAME,
    User,
    address,
    is_refused,
    limiter,
    note,
    user,
)
from drelo.web.problems import problem
from drelo.web.replies import reply
from drelo.web.schemas.base import Problem
from drelo.web.schemas.people import (
    Accept,
    BrowserList,
    BrowserOut,
    BrowserPath,
    FactorOut,
    InvitationOut,
    Me,
    NewPassword,
    PersonOut,
    Prove,
    RenameMe,
    SetPassword,
    SignedIn,
    SignInRequest,
    SpareCodes,
    TakeFactor,
    TokenPath,
    UsageOut,
)

blueprint = APIBlueprint(
    "accounts", __name__, url_prefix="/api", abp_tags=[Tag(name="people")], abp_responses={404: Problem, 422: Problem}
)
NOTHING = ("", 204)


@blueprint.get("/me", operation_id="me", responses={200: Me})
def me() -> Response:
    """Who is signed in, if anybody."""
    return reply(_me())


@blueprint.get("/me/usage", operation_id="usage", responses={200: UsageOut})
def usage() -> Response:
    """What one uses of the workshop, and may use."""
    me = person()
    assert me is not None, "the table of rights lets nobody else in"
    consumption = bench().consumption
    used = consumption.used(today(), me.id).get(me.id, Used())
    return reply(UsageOut.of(used, limits_of(consumption.own_limits(me.id))))


@blueprint.post("/sign-in", operation_id="signIn", responses={200: SignedIn, 401: Problem, 429: Problem})
@limiter.limit(GUESSES_OF_ADDRESS, deduct_when=is_refused)
@limiter.limit(GUESSES_OF_NAME, key_func=lambda: f"name {_name_tried()}", deduct_when=is_refused)
def sign_in(body: SignInRequest) -> Response:
    """Sign a browser in. What is wrong is said in the same words whatever it was."""
    try:
        found = people.person_for(bench().accounts, body.name, body.password, body.code)
    except CodeWanted:
        return reply(SignedIn(me=None, code_wanted=True))
    except Refusal as refusal:
        note("tried to sign in", body.name[:40])
        return problem(401, refusal, kind="/problems/sign-in")
    _begin(found)
    note("signed in", account=found.id)
    return reply(SignedIn(me=_me()))


@blueprint.post("/sign-out", operation_id="signOut", responses={204: None})
def sign_out() -> Response:
    """End this browser's sign-in."""
    now = user()
    if now is not None:
        note("signed out")
        bench().accounts.sign_out(now.token)
    logout_user()
    session.clear()
    return make_response(*NOTHING)


@blueprint.get("/invitations/<token>", operation_id="invitation", responses={200: InvitationOut})
@limiter.limit(GUESSES_OF_ADDRESS, deduct_when=is_refused)
def invitation(path: TokenPath) -> Response:
    """What a link of an invitation is good for."""
    found = bench().accounts.invited(path.token)
    if found is None:
        return problem(404, Refusal("people.invitation-used"))
    known = bench().accounts.get(found.account) if found.account else None
    return reply(InvitationOut.of(found, known.name if known else None))


@blueprint.post("/invitations/<token>", operation_id="acceptInvitation", responses={200: Me})
@limiter.limit(GUESSES_OF_ADDRESS, deduct_when=is_refused)
def accept(path: TokenPath, body: Accept) -> Response:
    """An account by an invitation; it is signed in at once."""
    password = people.hash_of(body.password, body.name)
    made = bench().accounts.accept(path.token, body.name, body.title, password)
    _begin(made)
    note("joined", f"as {made.role}", made.id)
    return reply(_me())


@blueprint.put("/invitations/<token>/password", operation_id="passwordByLink", responses={200: Me})
@limiter.limit(GUESSES_OF_ADDRESS, deduct_when=is_refused)
def by_link(path: TokenPath, body: SetPassword) -> Response:
    """A new password by a link of a keeper; it is signed in at once, and everywhere else signed out."""
    found = bench().accounts.invited(path.token)
    known = bench().accounts.get(found.account) if found and found.account else None
    if known is None:
        return problem(404, Refusal("people.link-used"))
    made = bench().accounts.use_link(path.token, people.hash_of(body.password, known.name))
    _begin(made)
    note("set a new password by a link", account=made.id)
    return reply(_me())


@blueprint.put("/me/title", operation_id="renameMe", responses={200: Me})
def rename(body: RenameMe) -> Response:
    """What others see one called."""
    bench().accounts.set_title(_who().id, body.title)
    return reply(_me(fresh=True))


@blueprint.put("/me/password", operation_id="newPassword", responses={204: None, 429: Problem})
@limiter.limit(GUESSES_OF_ADDRESS, deduct_when=is_refused)
def password(body: NewPassword) -> Response:
    """Another password; every other browser is signed out."""
    people.change_password(bench().accounts, _who(), body.old, body.new)
    now = user()
    bench().accounts.end_others(_who().id, now.token if now else None)
    note("changed the password")
    return make_response(*NOTHING)


@blueprint.get("/me/browsers", operation_id="browsers", responses={200: BrowserList})
def browsers() -> Response:
    """Where one is signed in."""
    return _browsers()


@blueprint.delete("/me/browsers/<browser>", operation_id="endBrowser", responses={200: BrowserList})
def end_browser(path: BrowserPath) -> Response:
    """Sign one browser out."""
    bench().accounts.end_browser(_who().id, path.browser)
    note("signed another browser out")
    return _browsers()


@blueprint.delete("/me/browsers", operation_id="endOthers", responses={200: BrowserList})
def end_others() -> Response:
    """Sign all browsers out but this one."""
    now = user()
    bench().accounts.end_others(_who().id, now.token if now else None)
    note("signed all other browsers out")
    return _browsers()


@blueprint.post("/me/factor", operation_id="beginFactor", responses={200: FactorOut, 429: Problem})
@limiter.limit(GUESSES_OF_ADDRESS, deduct_when=is_refused)
def begin_factor(body: Prove) -> Response:
    """A second factor to scan; it is asked for only when a code of it was taken."""
    people.prove(bench().accounts, _who(), body.password)
    found = people.new_factor(_who())
    picture = io.BytesIO()
    segno.make(found.address, error="m").save(picture, kind="svg", scale=4, border=2, dark="#23262b", light="#ffffff")
    return reply(FactorOut(secret=found.secret, picture=picture.getvalue().decode()))


@blueprint.put("/me/factor", operation_id="takeFactor", responses={200: SpareCodes, 429: Problem})
@limiter.limit(GUESSES_OF_ADDRESS, deduct_when=is_refused)
def take_factor(body: TakeFactor) -> Response:
    """Ask for the second factor from now on."""
    people.prove(bench().accounts, _who(), body.password)
    codes = people.take_factor(bench().accounts, _who(), body.secret, body.code)
    note("asks for a second factor")
    return reply(SpareCodes(codes=codes))


@blueprint.post("/me/factor/drop", operation_id="dropFactor", responses={200: Me, 429: Problem})
@limiter.limit(GUESSES_OF_ADDRESS, deduct_when=is_refused)
def drop_factor(body: Prove) -> Response:
    """Ask for the password only."""
    people.prove(bench().accounts, _who(), body.password)
    bench().accounts.set_factor(_who().id, None)
    note("asks for no second factor any more")
    return reply(_me(fresh=True))


def _begin(found: Person) -> None:
    """A sign-in of this browser; whatever its cookie held before is worth nothing."""
    session.clear()
    agent = request.user_agent.string or ""
    token = bench().accounts.sign_in(found.id, agent, address())
    login_user(User(found, token))
    g.person = found
    session.permanent = True


def _me(fresh: bool = False) -> Me:
    now = person()
    if fresh and now is not None:
        now = bench().accounts.get(now.id)
    token = generate_csrf() if shared() else ""
    return Me(shared=shared(), person=PersonOut.of(now) if now else None, token=token)


def _browsers() -> Response:
    now = user()
    here = hashed(now.token)[:16] if now else ""
    found = bench().accounts.browsers(_who().id)
    return reply(BrowserList(browsers=[BrowserOut.of(b, b.id == here) for b in found]))


def _who() -> Person:
    now = person()
    assert now is not None, "the table of rights lets nobody else in"
    return now


def _name_tried() -> str:
    body = request.get_json(silent=True)
    return str(body.get("name", ""))[:80].strip().lower() if isinstance(body, dict) else ""
