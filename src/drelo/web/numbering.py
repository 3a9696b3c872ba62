"""Every request has a number, which its answer and what is logged of it carry, so that one is found by the other."""

from __future__ import annotations

import secrets

from flask import Flask, Response, g, has_request_context

HEADER = "X-Request-Id"


def number() -> str:
    """The number of the request that is answered; a dash outside of one."""
    return str(g.get("request_number", "-")) if has_request_context() else "-"


def install(app: Flask) -> None:
    @app.before_request
    def give() -> None:
        g.request_number = secrets.token_hex(4)

    @app.after_request
    def tell(response: Response) -> Response:
        response.headers[HEADER] = number()
        return response
