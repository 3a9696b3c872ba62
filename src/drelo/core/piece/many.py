"""The same piece for many names."""

from __future__ import annotations

from drelo.core.errors import Refusal
from drelo.core.lettering.layout import MAX_LETTERS
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Lettering


def named(document: Document, name: str, words: str | None = None) -> Document:
    """The piece with a name in place of its words. words: id of the lettering, when there are several.

    Raises Refusal when the piece has no words, or the name is too long.
    """
    letterings = [t for t in document.drawn if isinstance(t, Lettering) and words in (None, t.id)]
    if not letterings:
        raise Refusal("names.no-words", "words")
    if not 0 < len(name) <= MAX_LETTERS:
        raise Refusal("names.length", "names", most=MAX_LETTERS)
    changed = letterings[0].model_copy(update={"text": name})
    return document.model_copy(update={"drawn": tuple(changed if t.id == changed.id else t for t in document.drawn)})
