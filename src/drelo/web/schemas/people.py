"""People, sign-ins, sharing."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from drelo.core.people.limits import MEGABYTE, Limits, Used
from drelo.core.people.passwords import LONGEST
from drelo.core.people.rights import Openness, Role, Shared
from drelo.store.accounts import Browser, Invited, Person
from drelo.store.record import Told
from drelo.web.schemas.base import PieceId, Wire
from drelo.work.workers import State

SignInName = Annotated[
    str, Field(pattern=r"^[a-z0-9][a-z0-9._-]{1,39}$", description="Small letters, digits, dot, dash, underscore.")
]
Title = Annotated[str, Field(min_length=1, max_length=120)]
# A password that is checked may be anything; one that is set is looked at more closely.
Password = Annotated[str, Field(max_length=LONGEST)]
Token = Annotated[str, Field(min_length=8, max_length=64)]


class PersonOut(Wire):
    id: str
    name: str
    title: str
    role: Role
    closed: bool
    two_factors: bool

    @classmethod
    def of(cls, person: Person) -> PersonOut:
        return cls(
            id=person.id,
            name=person.name,
            title=person.title,
            role=person.role,
            closed=person.closed,
            two_factors=person.two_factors,
        )


class LimitsOut(Wire):
    """pieces: that one has. megabytes: of what one made and brought. jobs: at once. minutes: of computing, a day."""

    pieces: int
    megabytes: int
    jobs: int
    minutes: int


class OwnLimits(Wire):
    """Limits of one person; what is left out is the workshop's."""

    pieces: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    megabytes: Annotated[int, Field(ge=0, le=10_000_000)] | None = None
    jobs: Annotated[int, Field(ge=1, le=1000)] | None = None
    minutes: Annotated[int, Field(ge=0, le=100_000)] | None = None


class UsageOut(Wire):
    """minutes: of computing today. limits: how much of it one may use."""

    pieces: int
    megabytes: float
    minutes: float
    limits: LimitsOut

    @classmethod
    def of(cls, used: Used, limits: Limits) -> UsageOut:
        return cls(
            pieces=used.pieces,
            megabytes=used.bytes / MEGABYTE,
            minutes=used.seconds / 60,
            limits=LimitsOut(**asdict(limits)),
        )


class KeptPerson(PersonOut):
    """As a keeper sees them. own: limits that are not the workshop's."""

    usage: UsageOut
    own: OwnLimits


class Me(Wire):
    """shared: whether this is a workshop of several people. token: goes with every change, as X-CSRFToken."""

    shared: bool
    person: PersonOut | None
    token: str


class SignInRequest(Wire):
    name: Annotated[str, Field(max_length=80)]
    password: Password
    code: Annotated[str, Field(max_length=20)] | None = None


class SignedIn(Wire):
    """code_wanted: the password is right, and a code of the second factor is asked for."""

    me: Me | None
    code_wanted: bool = False


class TokenPath(Wire):
    token: Token


class InvitationOut(Wire):
    """name: who signs in so already, and sets a new password by it."""

    id: str
    title: str
    role: Role
    ends: str
    name: str | None = None

    @classmethod
    def of(cls, found: Invited, name: str | None = None) -> InvitationOut:
        return cls(id=found.id, title=found.title, role=found.role, ends=_moment(found.ends), name=name)


class Accept(Wire):
    name: SignInName
    title: Title
    password: Password


class SetPassword(Wire):
    password: Password


class RenameMe(Wire):
    title: Title


class NewPassword(Wire):
    old: Password
    new: Password


class Prove(Wire):
    """What is changed here is proved by the password."""

    password: Password


class FactorOut(Wire):
    """picture: an SVG that an app reads."""

    secret: str
    picture: str


class TakeFactor(Wire):
    password: Password
    secret: Annotated[str, Field(pattern=r"^[A-Z2-7]{16,64}$")]
    code: Annotated[str, Field(max_length=20)]


class SpareCodes(Wire):
    """Each signs in once in place of a code."""

    codes: list[str]


class BrowserOut(Wire):
    id: str
    begun: str
    seen: str
    agent: str
    address: str
    here: bool

    @classmethod
    def of(cls, found: Browser, here: bool) -> BrowserOut:
        return cls(
            id=found.id,
            begun=_moment(found.begun),
            seen=_moment(found.seen),
            agent=found.agent,
            address=found.address,
            here=here,
        )


class BrowserList(Wire):
    browsers: list[BrowserOut]


class BrowserPath(Wire):
    browser: Annotated[str, Field(max_length=32)]


class PeopleOut(Wire):
    people: list[KeptPerson]
    limits: LimitsOut
    invitations: list[InvitationOut]


class MachineOut(Wire):
    """name: empty for the machine that this is. ready: workers that can take a job. longest: s that one has waited."""

    name: str
    ready: int
    running: int
    waiting: int
    longest: float

    @classmethod
    def of(cls, name: str, state: State) -> MachineOut:
        return cls(
            name=name, ready=state.ready, running=state.running, waiting=state.waiting, longest=round(state.longest, 1)
        )


class WorkOut(Wire):
    machines: list[MachineOut]


class PersonPath(Wire):
    account: Annotated[str, Field(max_length=22)]


class ChangePerson(Wire):
    """Only what is given changes. closed: whether they are shut out."""

    role: Role | None = None
    closed: bool | None = None
    limits: OwnLimits | None = None


class Invite(Wire):
    """title: whom it is for, so that the list can be read."""

    role: Role
    title: Title


class InvitedOut(Wire):
    """token: what the link holds; it is told once."""

    token: str
    ends: str


class InvitationPath(Wire):
    invitation: Annotated[str, Field(max_length=32)]


class RecordQuery(Wire):
    """before: the number of the entry up to which was read."""

    before: int | None = None


class HappeningOut(Wire):
    id: int
    at: str
    who: str | None
    what: str
    about: str
    address: str

    @classmethod
    def of(cls, told: Told) -> HappeningOut:
        return cls(
            id=told.id, at=_moment(told.at), who=told.who, what=told.what, about=told.about, address=told.address
        )


class RecordOut(Wire):
    happenings: list[HappeningOut]
    total: int


class NameOut(Wire):
    """Somebody whom one can share with."""

    id: str
    title: str
    role: Role


class PeopleNames(Wire):
    people: list[NameOut]


class SharedWith(Wire):
    account: str
    title: str
    right: Shared


class SharingOut(Wire):
    """link: whether anybody who has the piece's link may look at it."""

    owner: str | None
    openness: Openness
    people: list[SharedWith]
    link: bool


class LinkOut(Wire):
    """token: what the link holds; it is told once."""

    token: str


class ShownShape(Wire):
    """path: mm on the sheet. colour: of its filament."""

    path: str
    colour: str


class ShownOut(Wire):
    """A piece as it is shown to whoever has its link. box: x, y, width and height of it all, mm."""

    title: str
    revision: int
    box: tuple[float, float, float, float] | None
    base: ShownShape | None
    regions: list[ShownShape]


class ShownPath(BaseModel):
    token: Token


class ShownSolidPath(ShownPath):
    revision: int


class OpenTo(Wire):
    openness: Openness


class SharePath(Wire):
    piece_id: PieceId
    account: Annotated[str, Field(max_length=22)]


class ShareWith(Wire):
    """null: no longer."""

    right: Literal["look", "edit"] | None


class HereOut(Wire):
    """Who else has a piece open, at which revision it stands, and who made that."""

    others: list[str]
    revision: int
    by: str | None


class GiveTo(Wire):
    account: Annotated[str, Field(max_length=22)]


def _moment(at: datetime) -> str:
    return at.replace(tzinfo=UTC).isoformat()
