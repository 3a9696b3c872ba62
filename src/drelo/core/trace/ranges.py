"""What every mode asks of its settings."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.trace.area import Area, check_area

# Where more than this share of the pixels, and more than so many, lie at an edge, the picture is noise.
NOISY_SHARE, NOISY_LEAST = 0.3, 60_000


def check_calm(edges: int, pixels: int) -> None:
    """Raises Refusal when the edges (px of their length) that are left make up most of a picture of so many pixels."""
    if edges > max(NOISY_LEAST, NOISY_SHARE * pixels):
        raise Refusal("trace.noise", "speck")


def edge_length(labels: NDArray[Any]) -> int:
    """How many pairs of neighbouring pixels differ in a picture of labels, shape (height, width)."""
    across, down = labels[:, 1:] != labels[:, :-1], labels[1:] != labels[:-1]
    return int(np.count_nonzero(across)) + int(np.count_nonzero(down))


def check_level(level: float | None) -> None:
    """Raises Refusal when the level is out of its range."""
    if level is not None and not 0 <= level <= 1:
        raise Refusal("trace.level", "level")


def check_pinhole(pinhole: float | None) -> None:
    """Raises Refusal when the size of pinholes is out of its range."""
    if pinhole is not None and not 0 <= pinhole <= 1e9:
        raise Refusal("trace.pinhole", "pinhole")


def check_common(speck: float | None, smooth: float, keen: float, area: Area | None) -> None:
    """Raises Refusal with the field's name when a setting that all modes share is out of its range."""
    if speck is not None and not 0 <= speck <= 1e9:
        raise Refusal("trace.speck", "speck")
    if not 0 <= smooth <= 1:
        raise Refusal("trace.calmness", "smooth")
    if not 0 <= keen <= 1:
        raise Refusal("trace.keenness", "keen")
    check_area(area)
