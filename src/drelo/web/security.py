"""Headers, hosts and origins: the page talks to its own server only."""

from __future__ import annotations

from collections.abc import Sequence
from urllib.parse import urlsplit

from flask import Flask, Response, abort, request

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; "
    "font-src 'self'; connect-src 'self' blob:; worker-src 'self' blob:; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)
HOSTS = ("127.0.0.1", "localhost", "[::1]")
_OWN = ("same-origin", "none")
_CHANGING = ("POST", "PUT", "PATCH", "DELETE")


def install(app: Flask, hosts: Sequence[str] = HOSTS, https: bool = False) -> None:
    """Refuse foreign hosts and origins; set the security headers on every answer.

    hosts: names that it may be asked by. https: it is reached over TLS only.
    """
    app.config["TRUSTED_HOSTS"] = list(hosts)

    @app.before_request
    def only_here() -> None:
        # Reading the host raises 400 for one that is not trusted.
        host = request.host
        origin = request.headers.get("Origin")
        if request.method in _CHANGING and origin is not None and urlsplit(origin).netloc != host:
            abort(403, "Only Drelo's own page may make changes.")
        # A browser says where a request comes from; programs, which say nothing, are let in.
        if request.method in _CHANGING and request.headers.get("Sec-Fetch-Site", "none") not in _OWN:
            abort(403, "Only Drelo's own page may make changes.")

    @app.after_request
    def headers(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        response.headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=()"
        response.headers.setdefault("Cache-Control", "no-store")
        if https:
            response.headers["Strict-Transport-Security"] = "max-age=31536000"
        return response
