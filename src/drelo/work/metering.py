"""How long a job has kept a processor."""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")


def metered(checkpoint: Callable[[], None], function: Callable[..., T], *arguments: Any) -> tuple[T, float]:
    """What a job comes to, and the processor seconds that it took, those of processes that it split off among them."""
    begun = _seconds()
    return function(checkpoint, *arguments), _seconds() - begun


def _seconds() -> float:
    times = os.times()
    return times.user + times.system + times.children_user + times.children_system
