"""The one way in which the core says no."""

from __future__ import annotations

from typing import Self


class Refusal(ValueError):
    """Input that cannot be used: which of the known refusals it is, for `drelo.words` to say in a maker's language.

    code: such as ``stamp.no-plate``; drelo.words has a sentence or two for each: what is wrong, and what would mend it.
    field: path of the offending value, such as ``heights[1].height``; empty when it is the whole input.
    values: what the sentence tells: numbers, names, or the refusal within this one.
    """

    def __init__(self, code: str, field: str = "", /, **values: object) -> None:
        super().__init__(code)
        self.code = code
        self.field = field
        self.values = values

    def at(self, field: str) -> Self:
        """The same about another field."""
        return type(self)(self.code, field, **self.values)

    def __str__(self) -> str:
        return " ".join([self.code, *(f"{name}={value!r}" for name, value in self.values.items())])

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Refusal) and self._told() == other._told()

    def __hash__(self) -> int:
        return hash((self.code, self.field))

    def __reduce__(self) -> tuple[type[Self], tuple[str, str], dict[str, object]]:
        return (type(self), (self.code, self.field), {"values": self.values})

    def _told(self) -> tuple[object, ...]:
        return type(self), self.code, self.field, self.values


class Superseded(Exception):
    """Raised inside a long computation when a newer one has taken its place."""


class Busy(Exception):
    """Too much waits to be worked out already: ask again in a moment."""
