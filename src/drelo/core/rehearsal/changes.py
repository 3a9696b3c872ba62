"""When filament is changed: the fewest changes, by the order in which the filaments of each layer are laid."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from drelo.core.rehearsal.lines import Floats

# Up to so many filaments in a layer every order of them is looked at; with more, they follow in their own.
MOST_ORDERS = 5


@dataclass(frozen=True)
class Change:
    """layer: its number, from 1. z: where the layer begins, mm. out, into: numbers of the bodies' filaments."""

    layer: int
    z: float
    out: int
    into: int


@dataclass(frozen=True)
class Orders:
    """orders: of the filaments in each layer. changes: what follows from them."""

    orders: tuple[tuple[int, ...], ...]
    changes: tuple[Change, ...]


def change_words(change: Change, names: Sequence[str]) -> str:
    """A change as one says it. names: of the filaments, by their number."""
    return f"layer {change.layer}, z {change.z:.1f} mm: take out {names[change.out]}, load {names[change.into]}"


def changes(layers: Sequence[Sequence[int]], tops: Floats) -> Orders:
    """The orders of filaments with the fewest changes.

    layers: which filaments each layer has. tops: upper side of each layer, mm. Only the last filament of a layer
    matters for the next, so that the best way to each last one is kept from layer to layer.
    """
    best: dict[int, tuple[int, tuple[tuple[int, ...], ...]]] = {-1: (0, ())}
    for given in layers:
        following: dict[int, tuple[int, tuple[tuple[int, ...], ...]]] = {}
        for last, (count, done) in best.items():
            for order in _orders(given, last):
                costs = count + max(len(order) - 1, 0)
                if order and last not in (-1, order[0]):
                    costs += 1
                end = order[-1] if order else last
                if end not in following or costs < following[end][0]:
                    following[end] = (costs, (*done, order))
        best = following
    _, orders = min(best.values(), key=lambda found: found[0])
    return Orders(orders, tuple(_listed(orders, tops)))


def _orders(given: Sequence[int], last: int) -> list[tuple[int, ...]]:
    if len(given) <= 1:
        return [tuple(given)]
    if len(given) <= MOST_ORDERS:
        # First who is in already, last anyone: what lies between does not matter.
        found = []
        for first, end in itertools.permutations(given, 2):
            found.append((first, *[g for g in given if g not in (first, end)], end))
        return found
    start = [last] if last in given else []
    return [(*start, *[g for g in given if g not in start])]


def _listed(orders: Sequence[Sequence[int]], tops: Floats) -> list[Change]:
    found: list[Change] = []
    now: int | None = None
    for number, order in enumerate(orders):
        for filament in order:
            if now is not None and filament != now:
                z = float(tops[number - 1]) if number else 0.0
                found.append(Change(number + 1, z, now, filament))
            now = filament
    return found
