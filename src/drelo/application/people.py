"""People of a shared workshop: how they sign in, and what they may change about themselves."""

from __future__ import annotations

import hashlib
import hmac
import re
import secrets
import time
from dataclasses import dataclass
from functools import cache

import pyotp
from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from drelo.core.errors import Refusal
from drelo.core.people.passwords import checked_password
from drelo.store.accounts import Accounts, Person, Secrets

ISSUER = "Drelo"
# Codes of the second factor change every so many seconds; one before and one after now are taken too.
STEP, SLACK = 30, 1
SPARE_CODES = 8
_HASHER = PasswordHasher()  # argon2id with the library's present defaults


class CodeWanted(Exception):
    """The password is right; a code of the second factor is asked for as well."""


@dataclass(frozen=True)
class Factor:
    """A second factor to set up. address: what an app reads from the picture."""

    secret: str
    address: str


def person_for(accounts: Accounts, name: str, password: str, code: str | None) -> Person:
    """Who signs in. Raises Refusal, in the same words whatever was wrong, and CodeWanted."""
    known, nobodys = accounts.secrets(name.strip().lower()), _nobodys()
    if not _matches(known.password if known else nobodys, password) or known is None:
        raise Refusal("sign-in.wrong")
    if known.secret is not None:
        if not code:
            raise CodeWanted
        if not _code_fits(accounts, known, code):
            raise Refusal("sign-in.wrong")
    if _HASHER.check_needs_rehash(known.password):
        accounts.set_password(known.person.id, _HASHER.hash(password))
    return known.person


@cache
def _nobodys() -> str:
    """Who tries a name that nobody has waits as long as who tries a wrong password."""
    return _HASHER.hash(secrets.token_urlsafe(16))


def new_keeper(accounts: Accounts, name: str, title: str, password: str) -> Person:
    """The first keeper, or one more. Raises Refusal."""
    return accounts.add(name, title, "keeper", hash_of(password, name))


def reset(accounts: Accounts, name: str, password: str) -> None:
    """A new password for somebody who forgot theirs; every browser is signed out. Raises Refusal."""
    found = next((person for person in accounts.all() if person.name == name), None)
    if found is None:
        raise Refusal("people.nobody-of-that-name", name=name)
    accounts.set_password(found.id, hash_of(password, name))
    accounts.set_factor(found.id, None)
    accounts.end_others(found.id, None)


def hash_of(password: str, name: str) -> str:
    """What is stored of a password. Raises Refusal where it is too weak."""
    return _HASHER.hash(checked_password(password, name))


def change_password(accounts: Accounts, person: Person, old: str, new: str) -> None:
    """Raises Refusal when the old one is wrong or the new one too weak."""
    prove(accounts, person, old)
    accounts.set_password(person.id, hash_of(new, person.name))


def prove(accounts: Accounts, person: Person, password: str) -> None:
    """Raises Refusal where this is not the person's password."""
    known = accounts.secrets(person.name)
    if known is None or not _matches(known.password, password):
        raise Refusal("password.not-yours", "old")


def new_factor(person: Person) -> Factor:
    """A second factor that is not asked for yet."""
    secret = pyotp.random_base32()
    return Factor(secret, pyotp.TOTP(secret, interval=STEP).provisioning_uri(name=person.name, issuer_name=ISSUER))


def take_factor(accounts: Accounts, person: Person, secret: str, code: str) -> list[str]:
    """Ask for the second factor from now on; spare codes for the day when it is lost. Raises Refusal."""
    if _counter_of(secret, code) is None:
        raise Refusal("second-factor.wrong-code", "code")
    spare = [f"{secrets.randbelow(10**5):05d}-{secrets.randbelow(10**5):05d}" for _ in range(SPARE_CODES)]
    accounts.set_factor(person.id, secret, [_spare(c.replace("-", "")) for c in spare])
    return spare


def _matches(stored: str, password: str) -> bool:
    try:
        return _HASHER.verify(stored, password)
    except (VerificationError, InvalidHashError):
        return False


def _code_fits(accounts: Accounts, known: Secrets, code: str) -> bool:
    """Whether a code fits that nobody has used yet."""
    bare = re.sub(r"[\s-]", "", code)
    counter = _counter_of(known.secret or "", bare)
    if counter is not None:
        return accounts.used_code(known.person.id, counter)
    return accounts.used_spare_code(known.person.id, _spare(bare))


def _counter_of(secret: str, code: str) -> int | None:
    """Which step of time a code is of, near now."""
    generator = pyotp.TOTP(secret, interval=STEP)
    at = int(time.time()) // STEP
    return next(
        (c for c in range(at - SLACK, at + SLACK + 1) if hmac.compare_digest(generator.generate_otp(c), code)), None
    )


def _spare(code: str) -> str:
    return hashlib.sha256(f"spare {code}".encode()).hexdigest()
