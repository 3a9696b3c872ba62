"""The one way in which the core says no."""

from __future__ import annotations


class Refusal(ValueError):
    """Input that cannot be used, said so that a maker knows what to do.

    message: one sentence or two: what is wrong and what would mend it.
    field: path of the offending value, such as ``heights[1].height``; empty when it is the whole input.
    """

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.field = field

    def __reduce__(self) -> tuple[type[Refusal], tuple[str, str]]:
        return (Refusal, (self.message, self.field))


class Superseded(Exception):
    """Raised inside a long computation when a newer one has taken its place."""


class Busy(Exception):
    """Too much waits to be worked out already: ask again in a moment."""
