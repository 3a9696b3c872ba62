"""Roles of people, how pieces are shared, and what follows from both."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import Literal

Role = Literal["keeper", "maker", "guest"]
ROLES: tuple[Role, ...] = ("keeper", "maker", "guest")
Openness = Literal["private", "shown", "edited"]
"""To the whole workshop: not at all, to look at, to work on."""
Shared = Literal["look", "edit"]
"""To one person."""


class Right(IntEnum):
    """What somebody may do with a piece; each includes those before it."""

    NONE = 0
    LOOK = 1
    EDIT = 2
    OWN = 3


@dataclass(frozen=True)
class Standing:
    """How a person stands to a piece. has_owner: it belongs to somebody; shared: to this person, one by one."""

    owns: bool
    has_owner: bool
    openness: Openness
    shared: Shared | None = None


def right_of(role: Role, standing: Standing) -> Right:
    """A guest only looks. What belongs to nobody, from the time before there were people, is the keepers' and shown."""
    if standing.owns:
        return Right.OWN
    if not standing.has_owner:
        if role == "keeper":
            return Right.OWN
        return Right.EDIT if role == "maker" and standing.openness == "edited" else Right.LOOK
    found = max(_OPEN[standing.openness], _SHARED[standing.shared])
    return min(found, Right.LOOK) if role == "guest" else found


_OPEN = {"private": Right.NONE, "shown": Right.LOOK, "edited": Right.EDIT}
_SHARED: dict[Shared | None, Right] = {None: Right.NONE, "look": Right.LOOK, "edit": Right.EDIT}
