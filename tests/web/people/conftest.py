"""A shared workshop with a keeper, two makers and a guest, each with a browser of their own."""

from __future__ import annotations

import io
from collections.abc import Callable

import pytest
from flask.testing import FlaskClient
from sqlalchemy import text

from drelo.application.bench import Bench
from drelo.application.people import hash_of
from drelo.web.app import create_app
from drelo.web.people.workshop import Workshop

PASSWORD = "beetroot lantern quartz"
PEOPLE = {"kay": "keeper", "mira": "maker", "milo": "maker", "gus": "guest"}
HASH = hash_of(PASSWORD, "x")


class Browser:
    """A browser that sends the token of the page with every change."""

    def __init__(self, client: FlaskClient) -> None:
        self.client = client
        self.token = ""
        self.refresh()

    def refresh(self) -> None:
        self.token = self.client.get("/api/me").json["token"]

    def ask(self, method: str, address: str, **more):
        return self.client.open(address, method=method, headers={"X-CSRFToken": self.token}, **more)

    def get(self, address: str, **more):
        return self.ask("GET", address, **more)

    def post(self, address: str, **more):
        return self.ask("POST", address, **more)

    def sign_in(self, name: str, password: str = PASSWORD, code: str | None = None):
        answer = self.post("/api/sign-in", json={"name": name, "password": password, "code": code})
        self.refresh()
        return answer


@pytest.fixture
def workshop(bench: Bench, maker) -> Callable[[], Browser]:
    """Fresh people; makes browsers that nobody is signed in with."""
    with maker.begin() as session:
        for table in ("share", "sign_in", "invitation", "happening", "account"):
            session.execute(text(f"delete from {table}"))
        session.execute(text("update piece set owner = null, openness = 'private'"))
    for name, role in PEOPLE.items():
        bench.accounts.add(name, name.capitalize(), role, HASH)
    app = create_app(bench, shared=Workshop(b"secret of the tests", guesses=False))
    return lambda: Browser(app.test_client())


@pytest.fixture
def signed_in(workshop) -> Callable[[str], Browser]:
    def browser(name: str) -> Browser:
        found = workshop()
        assert found.sign_in(name).status_code == 200
        return found

    return browser


@pytest.fixture
def piece_of(ring_png) -> Callable[[Browser], dict]:
    """A new piece of whoever is signed in."""

    def begun(browser: Browser) -> dict:
        data = {"picture": (io.BytesIO(ring_png), "ring.png")}
        answer = browser.post("/api/pieces/from-picture", data=data)
        assert answer.status_code == 200, answer.json
        return answer.json["piece"]

    return begun
