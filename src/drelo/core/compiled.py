"""Loops over pixels and points that a measurement showed to need a compiler."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar, cast

import numba

# Compiled loops run beside each other.
THREADS: int = min(numba.get_num_threads(), 8)

F = TypeVar("F", bound=Callable[..., object])


def compiled(function: F) -> F:
    """The function compiled at its first call and kept on disk; results do not depend on the machine's vector width."""
    return cast(F, numba.njit(cache=True, nogil=True)(function))
