"""People of a shared workshop: their accounts, the browsers that they are signed in with, and invitations."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, func, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.errors import Refusal
from drelo.core.people.rights import Role
from drelo.store.models import Account, Invitation, SignIn, now

# A sign-in ends when it was not used so long, and in any case so long after it began.
IDLE, LONGEST = timedelta(days=14), timedelta(days=60)
# When a sign-in was last used is kept to so much.
SEEN = timedelta(minutes=5)
# A link of an invitation works so long.
INVITED = timedelta(days=7)
_BYTES = 24


@dataclass(frozen=True)
class Person:
    """An account without its secrets. two_factors: whether a second one is asked for."""

    id: str
    name: str
    title: str
    role: Role
    closed: bool
    two_factors: bool
    created: datetime


@dataclass(frozen=True)
class Secrets:
    """What an account is checked against. password: an argon2id hash. spare_codes: hashes."""

    person: Person
    password: str
    secret: str | None
    counter: int | None
    spare_codes: tuple[str, ...]


@dataclass(frozen=True)
class Browser:
    """One that somebody is signed in with. id: names it without being of use to anybody else."""

    id: str
    begun: datetime
    seen: datetime
    agent: str
    address: str


@dataclass(frozen=True)
class Invited:
    """An invitation that was not used yet. account: whose new password it sets, where it makes no new account."""

    id: str
    title: str
    role: Role
    ends: datetime
    account: str | None = None


class Accounts:
    """Every method is one transaction."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def all(self) -> list[Person]:
        """Everybody, by what they are called."""
        with self._sessions() as session:
            return [_person(a) for a in session.scalars(select(Account).order_by(Account.title, Account.name))]

    def get(self, account: str) -> Person | None:
        with self._sessions() as session:
            found = session.get(Account, account)
            return None if found is None else _person(found)

    def secrets(self, name: str) -> Secrets | None:
        """Of an account that is open, by the name that it signs in with."""
        with self._sessions() as session:
            found = session.scalar(select(Account).where(Account.name == name, Account.closed.is_(False)))
            if found is None:
                return None
            return Secrets(_person(found), found.password, found.secret, found.counter, tuple(found.spare_codes or ()))

    def add(self, name: str, title: str, role: Role, password: str) -> Person:
        """A new account; password: its hash. Raises Refusal when the name is taken."""
        try:
            with self._sessions.begin() as session:
                account = Account(
                    id=secrets.token_urlsafe(12), name=name, title=title, role=role, password=password, spare_codes=[]
                )
                session.add(account)
                session.flush()
                return _person(account)
        except IntegrityError:
            raise Refusal("people.name-taken", "name") from None

    def set_title(self, account: str, title: str) -> None:
        self._set(account, title=title)

    def set_password(self, account: str, password: str) -> None:
        """password: its hash."""
        self._set(account, password=password)

    def set_factor(self, account: str, secret: str | None, spare_codes: Sequence[str] = ()) -> None:
        """Ask for a second factor from now on, or no longer."""
        self._set(account, secret=secret, counter=None, spare_codes=list(spare_codes))

    def used_code(self, account: str, counter: int) -> bool:
        """Note that a code of the second factor was used; whether nobody has used it before."""
        unused = (Account.id == account, func.coalesce(Account.counter, -1) < counter)
        with self._sessions.begin() as session:
            return bool(session.execute(update(Account).where(*unused).values(counter=counter)).rowcount)  # type: ignore[attr-defined]

    def used_spare_code(self, account: str, code: str) -> bool:
        """Use up a spare code, by its hash; whether it was there."""
        with self._sessions.begin() as session:
            found = session.execute(select(Account).where(Account.id == account).with_for_update()).scalar_one()
            if code not in found.spare_codes:
                return False
            found.spare_codes = [c for c in found.spare_codes if c != code]
            return True

    def change(self, account: str, role: Role | None = None, closed: bool | None = None) -> Person:
        """Another role, or shut out or let in again. Raises Refusal when no keeper would be left."""
        with self._sessions.begin() as session:
            everybody = {a.id: a for a in session.scalars(select(Account).with_for_update())}
            found = everybody.get(account)
            if found is None:
                raise Refusal("people.account-gone", "account")
            if role is not None:
                found.role = role
            if closed is not None:
                found.closed = closed
            if not any(a.role == "keeper" and not a.closed for a in everybody.values()):
                raise Refusal("people.last-keeper", "role")
            if found.closed:
                session.execute(delete(SignIn).where(SignIn.account_id == account))
            return _person(found)

    def has_keeper(self) -> bool:
        with self._sessions() as session:
            which = (Account.role == "keeper", Account.closed.is_(False))
            return session.scalar(select(Account.id).where(*which).limit(1)) is not None

    def sign_in(self, account: str, agent: str, address: str) -> str:
        """What a browser's cookie holds from now on."""
        token = secrets.token_urlsafe(_BYTES)
        with self._sessions.begin() as session:
            session.add(SignIn(token=hashed(token), account_id=account, agent=agent[:200], address=address[:60]))
        return token

    def signed_in(self, token: str, moment: datetime) -> Person | None:
        """Whose sign-in it is, as long as it lasts. moment: the present, UTC without a zone."""
        with self._sessions.begin() as session:
            found = session.get(SignIn, hashed(token))
            if found is None:
                return None
            if moment - found.seen > IDLE or moment - found.begun > LONGEST:
                session.delete(found)
                return None
            if moment - found.seen > SEEN:
                found.seen = moment
            account = session.get(Account, found.account_id)
            return None if account is None or account.closed else _person(account)

    def browsers(self, account: str) -> list[Browser]:
        """Where somebody is signed in, the last used first."""
        with self._sessions() as session:
            rows = session.scalars(select(SignIn).where(SignIn.account_id == account).order_by(SignIn.seen.desc()))
            return [Browser(_named(s.token), s.begun, s.seen, s.agent, s.address) for s in rows]

    def sign_out(self, token: str) -> None:
        with self._sessions.begin() as session:
            session.execute(delete(SignIn).where(SignIn.token == hashed(token)))

    def end_browser(self, account: str, browser: str) -> None:
        """End one sign-in of an account, by the id of the browser."""
        with self._sessions.begin() as session:
            for found in session.scalars(select(SignIn).where(SignIn.account_id == account)):
                if _named(found.token) == browser:
                    session.delete(found)

    def end_others(self, account: str, token: str | None) -> None:
        """End every sign-in of an account but this one."""
        which = [SignIn.account_id == account]
        if token is not None:
            which.append(SignIn.token != hashed(token))
        with self._sessions.begin() as session:
            session.execute(delete(SignIn).where(*which))

    def invite(self, by: str, role: Role, title: str) -> str:
        """What the link of a new invitation holds."""
        token = secrets.token_urlsafe(_BYTES)
        with self._sessions.begin() as session:
            session.execute(delete(Invitation).where(Invitation.ends < now()))
            session.add(Invitation(token=hashed(token), role=role, title=title, by_account=by, ends=now() + INVITED))
        return token

    def invite_back(self, by: str, account: str) -> str | None:
        """What the link holds by which somebody sets a new password; nothing where there is no such account."""
        token = secrets.token_urlsafe(_BYTES)
        with self._sessions.begin() as session:
            found = session.get(Account, account)
            if found is None:
                return None
            # One link at a time.
            session.execute(delete(Invitation).where(Invitation.account_id == account))
            values = {"role": found.role, "title": found.title, "by_account": by, "ends": now() + INVITED}
            session.add(Invitation(token=hashed(token), account_id=account, **values))
        return token

    def use_link(self, token: str, password: str) -> Person:
        """A new password by its link, which is used up with it; no second factor any more. Raises Refusal."""
        with self._sessions.begin() as session:
            found = session.execute(
                select(Invitation).where(Invitation.token == hashed(token)).with_for_update()
            ).scalar_one_or_none()
            account = session.get(Account, found.account_id) if found is not None and found.account_id else None
            if found is None or account is None or account.closed or found.ends < now():
                raise Refusal("people.link-used", "token")
            account.password, account.secret, account.counter, account.spare_codes = password, None, None, []
            session.execute(delete(SignIn).where(SignIn.account_id == account.id))
            session.delete(found)
            return _person(account)

    def invited(self, token: str) -> Invited | None:
        """The invitation of a link, as long as it can be used."""
        with self._sessions() as session:
            found = session.get(Invitation, hashed(token))
            return None if found is None or found.ends < now() else _invited(found)

    def invitations(self) -> list[Invited]:
        with self._sessions() as session:
            rows = session.scalars(select(Invitation).where(Invitation.ends >= now()).order_by(Invitation.ends.desc()))
            return [_invited(i) for i in rows]

    def withdraw(self, invitation: str) -> None:
        """Take an invitation back, by its id."""
        with self._sessions.begin() as session:
            for found in session.scalars(select(Invitation)):
                if _named(found.token) == invitation:
                    session.delete(found)

    def accept(self, token: str, name: str, title: str, password: str) -> Person:
        """An account by an invitation, which is used up with it. Raises Refusal."""
        try:
            with self._sessions.begin() as session:
                found = session.execute(
                    select(Invitation).where(Invitation.token == hashed(token)).with_for_update()
                ).scalar_one_or_none()
                if found is None or found.account_id is not None or found.ends < now():
                    raise Refusal("people.invitation-used", "token")
                account = Account(
                    id=secrets.token_urlsafe(12),
                    name=name,
                    title=title,
                    role=found.role,
                    password=password,
                    spare_codes=[],
                )
                session.add(account)
                session.flush()
                session.delete(found)
                return _person(account)
        except IntegrityError:
            raise Refusal("people.name-taken", "name") from None

    def _set(self, account: str, **values: object) -> None:
        with self._sessions.begin() as session:
            session.execute(update(Account).where(Account.id == account).values(**values))


def hashed(token: str) -> str:
    """What is stored of a token: who reads the table cannot use it."""
    return hashlib.sha256(token.encode()).hexdigest()


def _named(stored: str) -> str:
    """A name for what is stored by its hash."""
    return stored[:16]


def _person(account: Account) -> Person:
    return Person(
        account.id,
        account.name,
        account.title,
        account.role,  # type: ignore[arg-type]
        account.closed,
        account.secret is not None,
        account.created,
    )


def _invited(found: Invitation) -> Invited:
    return Invited(_named(found.token), found.title, found.role, found.ends, found.account_id)  # type: ignore[arg-type]
