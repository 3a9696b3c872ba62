"""Two changes of a piece that were made at the same time: whether they meet, and both together where they do not."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from pydantic import BaseModel

from drelo.core.piece.document import Document
from drelo.core.piece.history.telling import ROWS

Place = tuple[str, ...]
"""Where in a document something stands: names of fields, ids of rows."""


def touched(before: Document, after: Document) -> frozenset[Place]:
    """What a change touches. A row that came or went is touched as a whole, and so is the order where it changed.

    A picture is touched as a whole: what is set of it begins from what else is set of it. One that is moved takes along
    how regions are recognised.
    """
    found = set(_between((), before.__dict__, after.__dict__))
    moved = any(place[0] == "pictures" and place[2:3] in _MOVING for place in found)
    whole = {place[:2] if place[0] == "pictures" else place for place in found}
    return frozenset(whole | {("regions",)} if moved else whole)


# Fields of a picture that what lies on it follows.
_MOVING = (("place",), ("care",), ("asset",), ("width",), ("height",), ())


def meet(mine: frozenset[Place], theirs: frozenset[Place]) -> frozenset[Place]:
    """Places that both touch, or of which one holds the other."""
    return frozenset(place for place in mine if any(_within(place, other) for other in theirs))


def together(base: Document, mine: Document, theirs: Document) -> Document:
    """What both made of a document, where they do not meet: theirs, with all that I changed as I have it."""
    return theirs.model_copy(update=_update(base, mine, theirs, ROWS))


def _update(base: BaseModel, mine: BaseModel, theirs: BaseModel, listed: Sequence[str] = ()) -> dict[str, Any]:
    update: dict[str, Any] = {}
    for name, new in mine.__dict__.items():
        old, other = base.__dict__[name], theirs.__dict__[name]
        if new is old or new == old:
            continue
        if name in listed:
            update[name] = _rows_together(old, new, other)
        elif isinstance(new, BaseModel) and type(old) is type(new) is type(other):
            update[name] = other.model_copy(update=_update(old, new, other))
        else:
            update[name] = new
    return update


def _rows_together(base: Sequence[Any], mine: Sequence[Any], theirs: Sequence[Any]) -> tuple[Any, ...]:
    old, new = {row.id: row for row in base}, {row.id: row for row in mine}
    gone = old.keys() - new.keys()
    rows = {row.id: row for row in theirs if row.id not in gone}
    for key, row in new.items():
        was, other = old.get(key), rows.get(key)
        if was is None or other is None:
            if was is None:
                rows[key] = row
        elif row != was:
            alike = type(row) is type(was) is type(other)
            rows[key] = other.model_copy(update=_update(was, row, other)) if alike else row
    if [k for k in new if k in old] == [k for k in old if k in new]:
        return tuple(rows.values())
    # I put them into another order: that holds, and what came meanwhile goes behind.
    return tuple(rows[k] for k in [*(k for k in new if k in rows), *(k for k in rows if k not in new)])


def _within(one: Place, other: Place) -> bool:
    shorter = min(len(one), len(other))
    return one[:shorter] == other[:shorter]


def _between(at: Place, before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterator[Place]:
    for name, new in after.items():
        old = before.get(name)
        if new is old or new == old:
            continue
        here = (*at, name)
        if not at and name in ROWS:
            yield from _rows(here, old or (), new)
        elif isinstance(new, BaseModel) and type(old) is type(new):
            yield from _between(here, old.__dict__, new.__dict__)
        else:
            yield here


def _rows(at: Place, before: Sequence[Any], after: Sequence[Any]) -> Iterator[Place]:
    old, new = {row.id: row for row in before}, {row.id: row for row in after}
    for key in old.keys() ^ new.keys():
        yield (*at, key)
    both = [key for key in new if key in old]
    for key in both:
        if type(old[key]) is not type(new[key]):
            yield (*at, key)
        elif old[key] != new[key]:
            yield from _between((*at, key), old[key].__dict__, new[key].__dict__)
    # What came goes to the end or the front and moves nothing; what is left in another order is.
    if both != [key for key in old if key in new]:
        yield (*at, "order")
