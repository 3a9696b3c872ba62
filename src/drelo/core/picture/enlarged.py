"""Pictures that were enlarged, and as they were before."""

from __future__ import annotations

from dataclasses import dataclass

from drelo.core.picture.decode import Picture
from drelo.core.picture.grain import PLAIN, grain_of
from drelo.core.picture.reduce import reduced
from drelo.core.picture.repeats import repeats_of


@dataclass(frozen=True, eq=False)
class Enlarged:
    """The picture as it was: every pixel of it takes `scale` px, the first ones from `shift` (x, y) px on."""

    small: Picture
    scale: float
    shift: tuple[float, float]


def enlarged(picture: Picture) -> Enlarged | None:
    """What a picture was before it was enlarged; None where it was not."""
    grain = grain_of(picture)
    if grain != PLAIN:
        return Enlarged(reduced(grain.completed(picture), grain.size), grain.size, (-grain.left, -grain.top))
    repeats = repeats_of(picture)
    return None if repeats is None else Enlarged(repeats.small, repeats.scale, repeats.shift)
