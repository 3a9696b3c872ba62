"""How a shared workshop is run: signed cookies, CSRF tokens, limits on guessing."""

from __future__ import annotations

import os
import secrets
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import cast

from flask import Flask, Response, request
from flask_limiter import Limiter
from flask_limiter.errors import RateLimitExceeded
from flask_limiter.util import get_remote_address
from flask_login import LoginManager, UserMixin, current_user
from flask_wtf.csrf import CSRFError, CSRFProtect
from werkzeug.middleware.proxy_fix import ProxyFix

from drelo.core.errors import Refusal
from drelo.core.people.limits import Limits
from drelo.store.accounts import LONGEST, Person
from drelo.store.models import now
from drelo.web.bench import bench
from drelo.web.people.who import NAME, person, shared
from drelo.web.problems import problem

# Failed attempts at signing in, and at other things that are proved by a password or a link, from one address and for
# one name. A class that signs in at the same time from one address is no guess.
GUESSES_OF_ADDRESS, GUESSES_OF_NAME = "60 per 5 minutes", "15 per 5 minutes"
SECRET = "workshop-secret"
LIMITS = Limits()


@dataclass(frozen=True)
class Workshop:
    """secret: signs cookies. secure: it is reached over TLS only, and cookies go no other way.

    names: that it is reached by beside this machine's own. proxies: so many stand before it, each of which says whom it
    asks for. guesses: limits on signing in, or none for tests. counts: where failed attempts are counted: the memory of
    this process, or the Redis server that all web processes share; trust: the certificate by which it is known.
    limits: of everybody who has none of their own.
    """

    secret: bytes
    secure: bool = False
    names: tuple[str, ...] = ()
    proxies: int = 0
    guesses: bool = True
    counts: str = "memory://"
    limits: Limits = LIMITS
    trust: Path | None = None


class User(UserMixin):  # type: ignore[misc]
    """Who is signed in, and by which sign-in."""

    def __init__(self, person: Person, token: str) -> None:
        self.person = person
        self.token = token

    def get_id(self) -> str:
        return self.token


limiter = Limiter(get_remote_address, default_limits=[], headers_enabled=False)
csrf = CSRFProtect()


def is_refused(response: Response) -> bool:
    """Whether an attempt failed, so that it counts."""
    return response.status_code >= 400


def secret_of(folder: Path) -> bytes:
    """The secret of a data folder, made once and readable by its owner only."""
    path = folder / SECRET
    if not path.exists():
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "wb") as file:
            file.write(secrets.token_bytes(32))
    return path.read_bytes()


def user() -> User | None:
    """Who is signed in."""
    return cast(User, current_user) if shared() and current_user.is_authenticated else None


def address() -> str:
    return request.remote_addr or ""


def note(what: str, about: str = "", account: str | None = None) -> None:
    """Write to the record what was done, by who is signed in unless somebody else is named."""
    me = person()
    bench().record.note(account or (me.id if me else None), what, about, address())


def install(app: Flask, workshop: Workshop) -> None:
    app.extensions[NAME] = workshop
    app.secret_key = workshop.secret
    if workshop.proxies:
        n = workshop.proxies
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=n, x_proto=n, x_host=n)  # type: ignore[method-assign]
    app.config.update(
        SESSION_COOKIE_NAME="drelo",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_SECURE=workshop.secure,
        PERMANENT_SESSION_LIFETIME=LONGEST,
        REMEMBER_COOKIE_DURATION=timedelta(0),
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_SSL_STRICT=False,
        RATELIMIT_ENABLED=workshop.guesses,
        RATELIMIT_STORAGE_URI=workshop.counts,
        RATELIMIT_STORAGE_OPTIONS={"ssl_ca_certs": str(workshop.trust)} if workshop.trust else {},
        RATELIMIT_IN_MEMORY_FALLBACK_ENABLED=workshop.counts != "memory://",
    )
    login = LoginManager(app)
    login.session_protection = None
    login.user_loader(_load)
    csrf.init_app(app)
    limiter.init_app(app)

    @app.errorhandler(CSRFError)
    def no_token(_: CSRFError) -> Response:
        return problem(400, Refusal("request.no-token"), kind="/problems/token")

    @app.errorhandler(RateLimitExceeded)
    def too_often(_: RateLimitExceeded) -> Response:
        response = problem(429, Refusal("request.too-often"), kind="/problems/too-often")
        response.headers["Retry-After"] = "300"
        return response


def _load(token: str) -> User | None:
    found = bench().accounts.signed_in(token, now())
    return None if found is None else User(found, token)
