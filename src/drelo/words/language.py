"""A language: the sentences of refusals, and how their values are put into them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from string import Formatter
from typing import Any

from drelo.core.errors import Refusal

# How a value may be told, beside what numbers have of their own.
NAME, LOWER, LIST, EITHER, SPACED, SENTENCES = "name", "lower", "list", "or", "spaced", "sentences"


@dataclass(frozen=True)
class Language:
    """sentences: by the code of the refusal. names: of fields, where they are not the field's with its underscores
    as spaces. either: what stands before the last of several choices.

    A sentence tells a value as `{width:.1f}`, a field as `{field:name}`, what comes from elsewhere with a small letter
    as `{problem:lower}`, several as `{units:list}`, `{modes:or}`, `{letters:spaced}` or `{problems:sentences}`, and
    one or more of a thing as `{pieces:# piece|# pieces}`.
    """

    sentences: Mapping[str, str]
    names: Mapping[str, str]
    either: str

    def sentence(self, refusal: Refusal) -> str:
        """What a refusal says. Raises KeyError where this language has no words for it."""
        return _Formatter(self).vformat(self.sentences[refusal.code], (), refusal.values)


class _Formatter(Formatter):
    def __init__(self, language: Language) -> None:
        self._language = language

    def format_field(self, value: Any, format_spec: str) -> str:
        if isinstance(value, Refusal):
            return self._language.sentence(value)
        if format_spec == NAME:
            return self._language.names.get(value, str(value).replace("_", " ").replace(".", " "))
        if format_spec == LOWER:
            return str(value)[:1].lower() + str(value)[1:]
        if "|" in format_spec:
            one, more = format_spec.split("|")
            return (one if value == 1 else more).replace("#", f"{value:,}")
        if isinstance(value, Sequence) and not isinstance(value, str):
            return self._several([str(v) for v in value], format_spec)
        try:
            told: str = super().format_field(value, format_spec)
        except (TypeError, ValueError):
            # What is refused is told in any case.
            return str(value)
        return told

    def _several(self, values: list[str], how: str) -> str:
        if how == EITHER and len(values) > 1:
            return f"{', '.join(values[:-1])} {self._language.either} {values[-1]}"
        return (" " if how in (SPACED, SENTENCES) else ", ").join(values)
