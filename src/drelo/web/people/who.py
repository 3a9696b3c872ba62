"""Who asks: light to import, for it is asked where there are no people, too."""

from __future__ import annotations

from typing import cast

from flask import current_app, g

from drelo.core.people.rights import Right
from drelo.store.accounts import Person

NAME = "drelo-workshop"


def shared() -> bool:
    """Whether this is a workshop of several people."""
    return NAME in current_app.extensions


def person() -> Person | None:
    """The person who is signed in; nobody where there are no people."""
    return cast("Person | None", g.get("person"))


def right() -> Right:
    """What who asks may do with the piece in the address."""
    return cast(Right, g.get("right", Right.OWN))
