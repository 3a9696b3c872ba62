"""Pictures that were enlarged, and as they were before; and those whose pixels are meant to be squares."""

from __future__ import annotations

from dataclasses import replace

from drelo.core.picture.decode import Picture
from drelo.core.picture.grain import PLAIN, Grain, grain_of
from drelo.core.picture.reduce import reduced
from drelo.core.picture.repeats import Enlarged, repeats_of
from drelo.core.picture.squares import in_large_squares
from drelo.core.picture.unspread import unspread

# Of more pixels than this the small picture is their means: more would take seconds, and gigabytes.
LARGEST = 4_000_000


def enlarged(picture: Picture) -> Enlarged | None:
    """What a picture is traced from in its place: as it was before it was enlarged, or, where its pixels are meant to
    be squares, with larger ones. None for most pictures.
    """
    found = _before(picture)
    square = in_large_squares(picture if found is None else found.small)
    if square is None:
        return found
    large, times = square
    return Enlarged(large, (found.scale if found else 1) / times, found.shift if found else (0.0, 0.0))


def _before(picture: Picture) -> Enlarged | None:
    grain = grain_of(picture)
    if grain != PLAIN:
        return Enlarged(_means(grain.completed(picture), grain), grain.size, (-grain.left, -grain.top))
    return repeats_of(picture)


def _means(picture: Picture, grain: Grain) -> Picture:
    small = reduced(picture, grain.size)
    # Means say enough of what was coded or repeated; else the pixels of which a kernel makes it are known.
    if not grain.kernels or picture.coded or picture.width * picture.height > LARGEST:
        return small
    alpha = None if picture.alpha is None else unspread(picture.alpha[..., None], grain.size, grain.kernels)[..., 0]
    return replace(small, rgb=unspread(picture.rgb, grain.size, grain.kernels), alpha=alpha)
