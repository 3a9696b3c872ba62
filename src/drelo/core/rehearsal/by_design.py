"""How often filament is changed, told from a design alone: which filaments each layer will have."""

from __future__ import annotations

from drelo.core.form.columns import Design
from drelo.core.rehearsal.changes import Change, changes
from drelo.core.rehearsal.layers import tops_of
from drelo.core.rehearsal.settings import Manner

HAIR = 1e-6


def changes_of(design: Design, manner: Manner, face_down: bool = False) -> tuple[Change, ...]:
    """The changes that a design needs, as the rehearsal of its file finds them; filaments by their number.

    What a later layer of the design covers still counts: a region that is seen nowhere asks for no less.
    """
    bands = {band for column in design.columns for band in column}
    if not bands:
        return ()
    low, high = min(band.bottom for band in bands), max(band.top for band in bands)
    spans = [(high - b.top, high - b.bottom) if face_down else (b.bottom - low, b.top - low) for b in bands]
    tops = tops_of(high - low, manner)
    colours = [filament.colour for filament in design.filaments]
    layers = []
    below = 0.0
    for top in tops.tolist():
        middle = (below + top) / 2 + HAIR
        # Parts of their own may be of the same filament.
        solid = [b for b, (begin, end) in zip(bands, spans, strict=True) if begin < middle < end]
        layers.append(sorted({colours.index(colours[b.filament]) for b in solid}))
        below = top
    return changes(layers, tops).changes
