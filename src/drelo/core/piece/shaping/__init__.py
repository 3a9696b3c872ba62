"""Operations on outlines worked out: each becomes one edit that says what is put, dropped and left out.

The door: `shaped`. `workshop` holds what all of them work with, `areas`, `nodes`, `placing` and `words` the operations,
`symmetry` what keeps a repeated thing repeated.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from drelo.core.piece.edits import MoveSheet, Reshape
from drelo.core.piece.operations import (
    Align,
    Centre,
    ChangeNodes,
    Combine,
    Ease,
    FitInside,
    InsertNode,
    JoinLines,
    KeepOutlines,
    Lift,
    Loop,
    MakePlain,
    MoveHandle,
    MoveNodes,
    Offset,
    Operation,
    Pour,
    Remove,
    Replace,
    Retie,
    SetSize,
    SetWords,
    Simplify,
    Split,
    Stretch,
    Thicken,
    Tie,
    Transform,
    Trim,
    Widen,
)
from drelo.core.piece.shaping import areas, nodes, placing, tying, words
from drelo.core.piece.shaping.workshop import Workshop

_WORK: dict[type, Callable[[Workshop, Any], Reshape | MoveSheet]] = {
    Combine: areas.combine,
    Offset: areas.offset,
    Thicken: areas.thicken,
    Widen: areas.widen,
    Tie: tying.tie,
    Retie: tying.retie,
    Pour: areas.poured,
    Loop: areas.loop,
    MoveNodes: nodes.changed_nodes,
    MoveHandle: nodes.changed_nodes,
    InsertNode: nodes.changed_nodes,
    ChangeNodes: nodes.changed_nodes,
    Ease: nodes.changed_nodes,
    Stretch: nodes.changed_nodes,
    Simplify: nodes.simplify,
    Trim: nodes.trimmed,
    Split: nodes.split,
    JoinLines: nodes.join,
    Transform: placing.transform,
    FitInside: placing.fit_inside,
    Centre: placing.centre,
    SetSize: placing.set_size,
    MakePlain: placing.make_plain,
    KeepOutlines: placing.keep_outlines,
    Remove: placing.remove,
    Lift: placing.lift,
    Align: placing.align,
    Replace: words.replace_traced,
    SetWords: words.set_words,
}


def shaped(shop: Workshop, operation: Operation) -> Reshape | MoveSheet:
    """The edit that an operation comes to. Raises Refusal with what to do instead."""
    return _WORK[type(operation)](shop, operation)
