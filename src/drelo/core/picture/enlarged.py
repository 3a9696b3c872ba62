"""Pictures that were enlarged, and as they were before."""

from __future__ import annotations

from drelo.core.picture.decode import Picture
from drelo.core.picture.grain import PLAIN, grain_of
from drelo.core.picture.reduce import reduced
from drelo.core.picture.repeats import Enlarged, repeats_of


def enlarged(picture: Picture) -> Enlarged | None:
    """What a picture was before it was enlarged; None where it was not."""
    grain = grain_of(picture)
    if grain != PLAIN:
        return Enlarged(reduced(grain.completed(picture), grain.size), grain.size, (-grain.left, -grain.top))
    return repeats_of(picture)
