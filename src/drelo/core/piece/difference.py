"""What differs between two states, so that only that has to travel."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Rows:
    """A list of rows that have ids. order: all ids, where their order changed. changed: rows that are new or differ."""

    order: tuple[str, ...] | None
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
        if value is before[name] or value == before[name]:
            continue
        found = _rows(before[name], value) if name in listed else None
        if found is None:
            fields[name] = value
        else:
            rows[name] = found
    return Difference(fields, rows)


def _rows(before: Sequence[Any], after: Sequence[Any]) -> Rows | None:
    """None where ids do not tell the rows apart, or most of them differ."""
    known = {row.id: row for row in before}
    order = tuple(row.id for row in after)
    if len(known) < len(before) or len(set(order)) < len(after):
        return None
    changed = tuple(row for row in after if row.id not in known or known[row.id] != row)
    if 2 * len(changed) > len(after):
        return None
    return Rows(None if order == tuple(known) else order, changed)
