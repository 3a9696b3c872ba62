"""Blueprint: what a keeper of the workshop does: people, invitations, the record."""

from __future__ import annotations

from dataclasses import asdict

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application.metering import Metered
from drelo.core.errors import Refusal
from drelo.core.people.limits import Used
from drelo.store.accounts import INVITED, Person
from drelo.store.models import now
from drelo.web.bench import bench
from drelo.web.people.limits import limits_of, today
from drelo.web.people.who import person
from drelo.web.people.workshop import note
from drelo.web.problems import problem
from drelo.web.replies import reply
from drelo.web.schemas.base import Problem
from drelo.web.schemas.people import (
    ChangePerson,
    HappeningOut,
    InvitationOut,
    InvitationPath,
    Invite,
    InvitedOut,
    KeptPerson,
    LimitsOut,
    MachineOut,
    OwnLimits,
    PeopleOut,
    PersonOut,
    PersonPath,
    RecordOut,
    RecordQuery,
    UsageOut,
    WorkOut,
)
from drelo.web.schemas.versions import moment

blueprint = APIBlueprint(
    "workshop", __name__, url_prefix="/api", abp_tags=[Tag(name="people")], abp_responses={404: Problem, 422: Problem}
)
# Entries of the record that are read at once.
PAGE = 100


@blueprint.get("/people", operation_id="people", responses={200: PeopleOut})
def people() -> Response:
    """Everybody, and invitations that were not used yet."""
    return _people()


@blueprint.patch("/people/<account>", operation_id="changePerson", responses={200: PeopleOut})
def change(path: PersonPath, body: ChangePerson) -> Response:
    """Give somebody another role, shut them out, or let them in again."""
    found = bench().accounts.change(path.account, body.role, body.closed)
    if body.role is not None:
        note("gave a role", f"{found.title}: {found.role}")
    if body.closed is not None:
        note("shut out" if body.closed else "let in again", found.title)
    if body.limits is not None:
        own = {name: value for name, value in body.limits.model_dump().items() if value is not None}
        bench().consumption.set_limits(path.account, own)
        workers = bench().pool
        if isinstance(workers, Metered):
            workers.forget(path.account)
        note("set limits", f"{found.title}: {', '.join(f'{name} {n}' for name, n in own.items()) or 'the usual'}")
    return _people()


@blueprint.post("/people/invitations", operation_id="invite", responses={200: InvitedOut})
def invite(body: Invite) -> Response:
    """A link that makes an account, once, within a week."""
    me = person()
    assert me is not None, "the table of rights lets nobody else in"
    token = bench().accounts.invite(me.id, body.role, body.title)
    note("invited", f"{body.title} as {body.role}")
    return reply(InvitedOut(token=token, ends=moment(now() + INVITED)))


@blueprint.post("/people/<account>/password-link", operation_id="passwordLink", responses={200: InvitedOut})
def password_link(path: PersonPath) -> Response:
    """A link by which somebody sets a new password, once, within a week."""
    me, known = person(), bench().accounts.get(path.account)
    assert me is not None, "the table of rights lets nobody else in"
    token = bench().accounts.invite_back(me.id, path.account)
    if token is None or known is None:
        return problem(404, Refusal("people.account-gone"))
    note("made a link for a new password", known.title)
    return reply(InvitedOut(token=token, ends=moment(now() + INVITED)))


@blueprint.delete("/people/invitations/<invitation>", operation_id="withdraw", responses={200: PeopleOut})
def withdraw(path: InvitationPath) -> Response:
    """Take an invitation back."""
    bench().accounts.withdraw(path.invitation)
    note("withdrew an invitation")
    return _people()


@blueprint.get("/work", operation_id="work", responses={200: WorkOut})
def work() -> Response:
    """What is worked out just now, and what waits, on each machine."""
    return reply(WorkOut(machines=[MachineOut.of(name, state) for name, state in bench().pool.by_machine().items()]))


@blueprint.get("/record", operation_id="record", responses={200: RecordOut})
def record(query: RecordQuery) -> Response:
    """What was done by whom, the newest first."""
    found, total = bench().record.page(query.before, PAGE)
    return reply(RecordOut(happenings=[HappeningOut.of(told) for told in found], total=total))


def _people() -> Response:
    accounts, consumption = bench().accounts, bench().consumption
    everybody, used, own = accounts.all(), consumption.used(today()), consumption.all_own_limits()

    def kept(p: Person) -> KeptPerson:
        limits = own.get(p.id, {})
        usage = UsageOut.of(used.get(p.id, Used()), limits_of(limits))
        return KeptPerson(**dict(PersonOut.of(p)), usage=usage, own=OwnLimits(**limits))

    names = {p.id: p.name for p in everybody}
    return reply(
        PeopleOut(
            people=[kept(p) for p in everybody],
            limits=LimitsOut(**asdict(limits_of({}))),
            invitations=[InvitationOut.of(i, names.get(i.account or "")) for i in accounts.invitations()],
        )
    )
