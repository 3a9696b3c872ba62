"""How the regions of two versions differ, whatever was decided for them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from drelo.core.piece.flat import FlatRegion

# A region of about the same place is another one when its area differs by more than this share.
ANOTHER = 0.5
# An outline has changed when its area differs by more than this share.
CHANGED = 0.002


@dataclass(frozen=True)
class RegionsBetween:
    """Names of regions: only in the older version, only in the newer one, and of another outline there."""

    gone: tuple[str, ...]
    new: tuple[str, ...]
    reshaped: tuple[str, ...]


def regions_between(then: Sequence[FlatRegion], now: Sequence[FlatRegion]) -> RegionsBetween:
    """Matched by id, else by lying at the same place with about the same area; what is left out is not there."""
    old = {r.id: r for r in then if not r.left_out}
    unmatched = dict(old)
    new, reshaped, later = [], [], []
    for region in now:
        if region.left_out:
            continue
        was = unmatched.pop(region.id, None)
        if was is None:
            later.append(region)
        elif _differs(was, region):
            reshaped.append(region.name)
    for region in later:
        was = next((r for r in unmatched.values() if _same_place(r, region)), None)
        if was is None:
            new.append(region.name)
            continue
        del unmatched[was.id]
        if _differs(was, region):
            reshaped.append(region.name)
    return RegionsBetween(tuple(r.name for r in unmatched.values()), tuple(new), tuple(reshaped))


def _differs(was: FlatRegion, now: FlatRegion) -> bool:
    return abs(was.area - now.area) > CHANGED * max(was.area, now.area)


def _same_place(was: FlatRegion, now: FlatRegion) -> bool:
    x, y = was.mark.anchor
    left, top, width, height = now.box
    inside = left <= x <= left + width and top <= y <= top + height
    return inside and abs(was.area - now.area) <= ANOTHER * max(was.area, now.area)
