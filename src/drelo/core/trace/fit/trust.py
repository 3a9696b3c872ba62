"""How closely a picture can be believed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from drelo.core.picture.field import InkField

# Of pictures without antialiasing: px along which the staircase is averaged, what is added to the scale of corners, and
# how much more a segment may keep from the edge.
HARD_ALONG, HARD_SCALE, HARD_TOLERANCE = 1.5, 0.6, 1.6
# Share of the tolerance that curves may miss by, root mean square, for the sake of fewer nodes.
MERGE_SHARE = 0.2
# A segment may usually keep so far (px) from the edge; stairs of pixels are so far (px) from a calm line.
USUAL_TOLERANCE, HARD_OFF = 0.3, 0.5
# So far from edges of ink at calmness 0, 0.5 and 1.
TOLERANCES = ((0.0, 0.5, 1.0), (0.1, 0.28, 1.4))


@dataclass(frozen=True)
class Trust:
    """How closely the picture can be believed.

    scale: 1 for a clean antialiased picture, larger where noise or staircases would look like corners.
    tolerance: px that a segment may keep from the edge.
    along: px over which level lines are averaged along themselves, for pictures without antialiasing.
    quick: a fit that follows the hand: looked at the picture once, with more nodes.
    unblurred: a blur was taken out of the picture, so that what it shows of shallow corners is a guess.
    """

    scale: float
    tolerance: float
    along: float = 0.0
    quick: bool = False
    unblurred: bool = False

    @property
    def allowed(self) -> float:
        """px by which curves may be further off than where a clean picture is traced at its usual calmness."""
        return max(0.0, self.tolerance - USUAL_TOLERANCE) + (HARD_OFF if self.along > 0 else 0.0)


def keenness(keen: float) -> float:
    """What the scale of corners is multiplied by: 0 rounds corners off, 1 takes every tight bend for one."""
    return float(np.interp(keen, (0.0, 0.5, 1.0), (2.5, 1.0, 0.7)))


def trust_in(field: InkField, smooth: float, keen: float, quick: bool) -> Trust:
    """How closely edges of ink can be believed at the calmness `smooth` and the keenness `keen`, both 0..1."""
    scale = 0.5 + (HARD_SCALE if field.hard else 0.0) + min(field.noise / 50, 0.6) + max(0.0, smooth - 0.5)
    tolerance = float(np.interp(smooth, *TOLERANCES)) * (
        HARD_TOLERANCE if field.hard else 1 + min(field.noise / 20, 0.6)
    )
    return Trust(scale * keenness(keen), tolerance, HARD_ALONG if field.hard else 0.0, quick)
