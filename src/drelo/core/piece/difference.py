"""What differs between two states, so that only that has to travel or to be stored."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

Splice = tuple[int, int, tuple[str, ...]]
"""From which place on how many ids go, and the ids that come there."""


@dataclass(frozen=True)
class Rows:
    """A list of rows that have ids. order: how the ids change, where they do. changed: rows that are new or differ."""

    order: Splice | None
    changed: tuple[Any, ...]


@dataclass(frozen=True)
class Difference:
    """fields: those that differ, whole. rows: lists of which only some rows differ."""

    fields: Mapping[str, Any]
    rows: Mapping[str, Rows]


def difference(before: Mapping[str, Any], after: Mapping[str, Any], listed: Sequence[str]) -> Difference:
    """What turns `before` into `after`. listed: fields that hold rows; they are told apart by their `id`."""
    fields: dict[str, Any] = {}
    rows: dict[str, Rows] = {}
    for name, value in after.items():
        if value is before[name] or (name not in listed and value == before[name]):
            continue
        found = _rows(before[name], value) if name in listed else None
        if found is None:
            fields[name] = value
        elif found.order is not None or found.changed:
            rows[name] = found
    return Difference(fields, rows)


def put_on(before: Mapping[str, Any], change: Difference, identifier: Any) -> dict[str, Any]:
    """The state after a change; rows that did not change stay the same objects. identifier: tells a row's id."""
    after = {**before, **change.fields}
    for name, found in change.rows.items():
        rows = {identifier(row): row for row in before[name]}
        ids = list(rows)
        rows.update((identifier(row), row) for row in found.changed)
        if found.order is not None:
            at, gone, come = found.order
            ids[at : at + gone] = come
        after[name] = tuple(rows[i] for i in ids)
    return after


def _rows(before: Sequence[Any], after: Sequence[Any]) -> Rows | None:
    """None where ids do not tell the rows apart, or most of them differ."""
    known = {row.id: row for row in before}
    new = [row.id for row in after]
    if len(known) < len(before) or len(set(new)) < len(new):
        return None
    changed = tuple(row for row in after if (old := known.get(row.id)) is not row and old != row)
    if 2 * len(changed) > len(after):
        return None
    return Rows(_splice(list(known), new), changed)


def _splice(before: list[str], after: list[str]) -> Splice | None:
    if before == after:
        return None
    begin = 0
    while begin < min(len(before), len(after)) and before[begin] == after[begin]:
        begin += 1
    end = 0
    while end < min(len(before), len(after)) - begin and before[-1 - end] == after[-1 - end]:
        end += 1
    return begin, len(before) - begin - end, tuple(after[begin : len(after) - end])
