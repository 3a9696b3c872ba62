"""The language that is spoken: so far there is one."""

from __future__ import annotations

from typing import Any

from drelo.core.errors import Refusal
from drelo.words.english import ENGLISH


def sentence(refusal: Refusal) -> str:
    """What a refusal says to a maker."""
    return ENGLISH.sentence(refusal)


# What whoever writes values out gives along, for the refusals among them.
CONTEXT: dict[str, Any] = {"say": sentence}
