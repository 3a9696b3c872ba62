"""What names a request.

Each has a number, which its answer and what is logged of it carry, so that one is found by the other. One that changes
something can bring a key of its own: sent again with the same key, it is not made twice.
"""

from __future__ import annotations

import secrets

from flask import Flask, Response, g, has_request_context, request

from drelo.core.errors import Refusal
from drelo.web.listening import most_bytes

HEADER = "X-Request-Id"
KEY_HEADER = "Idempotency-Key"
LONGEST_KEY = 64


def number() -> str:
    """The number of the request that is answered; a dash outside of one."""
    return str(g.get("request_number", "-")) if has_request_context() else "-"


def key() -> str | None:
    """The key of the request that is answered, where it has one. Raises Refusal."""
    found = request.headers.get(KEY_HEADER)
    if found is not None and not 0 < len(found) <= LONGEST_KEY:
        raise Refusal("request.header-too-long", KEY_HEADER, header=KEY_HEADER, most=LONGEST_KEY)
    return found


def install(app: Flask) -> None:
    @app.before_request
    def give() -> None:
        g.request_number = secrets.token_hex(4)
        request.max_content_length = most_bytes(request.path)

    @app.after_request
    def tell(response: Response) -> Response:
        response.headers[HEADER] = number()
        return response
