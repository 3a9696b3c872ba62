"""Paths that a printer lays: lines with a width and a kind, in the order in which they are laid."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Kind = Literal["outer wall", "inner wall", "thin wall", "skin", "infill", "brim"]
KINDS: tuple[Kind, ...] = get_args(Kind)


@dataclass(frozen=True, eq=False)
class Line:
    """points: shape (n, 2), mm; a closed one ends where it began. width: mm."""

    kind: Kind
    points: Floats
    width: float


@dataclass(frozen=True, eq=False)
class Lines:
    """Many lines in one piece.

    points: shape (p, 2), mm. starts: where each line begins, and p. kinds: numbers in KINDS. widths: mm.
    """

    points: Floats
    starts: NDArray[np.int64]
    kinds: NDArray[np.int8]
    widths: Floats

    def __len__(self) -> int:
        return len(self.kinds)

    @property
    def lengths(self) -> Floats:
        """mm, of each line."""
        steps = np.hypot(*np.diff(self.points, axis=0).T) if len(self.points) > 1 else np.zeros(0)
        ends = np.concatenate([[0.0], np.cumsum(steps)])
        return np.asarray(ends[self.starts[1:] - 1] - ends[self.starts[:-1]]) if len(self) else np.zeros(0)

    @property
    def areas(self) -> Floats:
        """What each line covers, mm²: its length by its width."""
        return self.lengths * self.widths

    def ordered(self, order: NDArray[np.int64], is_turned: NDArray[np.bool_]) -> Lines:
        """The same lines in another order, some from their other end."""
        pieces = [
            self.points[self.starts[i] : self.starts[i + 1]][:: -1 if turned else 1]
            for i, turned in zip(order.tolist(), is_turned.tolist(), strict=True)
        ]
        return _joined(pieces, self.kinds[order], self.widths[order])


def packed(lines: Sequence[Line]) -> Lines:
    """Lines as arrays; what has no length is no line."""
    lines = [line for line in lines if len(line.points) > 1]
    kinds = np.array([KINDS.index(line.kind) for line in lines], np.int8)
    return _joined([line.points for line in lines], kinds, np.array([line.width for line in lines], np.float64))


def together(parts: Iterable[Lines]) -> Lines:
    """Lines one after the other."""
    given = [part for part in parts if len(part)]
    if not given:
        return packed(())
    counts = np.concatenate([np.diff(part.starts) for part in given])
    return Lines(
        np.vstack([part.points for part in given]),
        np.concatenate([[0], np.cumsum(counts)]),
        np.concatenate([part.kinds for part in given]),
        np.concatenate([part.widths for part in given]),
    )


def _joined(pieces: Sequence[Floats], kinds: NDArray[np.int8], widths: Floats) -> Lines:
    counts = np.array([len(piece) for piece in pieces], np.int64)
    points = np.vstack(pieces) if pieces else np.zeros((0, 2))
    return Lines(np.asarray(points, np.float64), np.concatenate([[0], np.cumsum(counts)]), kinds, widths)
