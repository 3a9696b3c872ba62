"""Loops over pixels and points that a measurement showed to need a compiler."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from typing import Any, TypeVar, cast

import numba
from numba.core.caching import FunctionCache

# Compiled loops run beside each other.
THREADS: int = min(numba.get_num_threads(), 8)

F = TypeVar("F", bound=Callable[..., object])


def compiled(function: F) -> F:
    """The function compiled at its first call and kept on disk; results do not depend on the machine's vector width."""
    loop: Any = numba.njit(nogil=True)(function)
    # Where nothing may be written there is no place for it.
    with suppress(RuntimeError):
        loop._cache = _Cache(function)  # type: ignore[no-untyped-call]
    return cast(F, loop)


class _Cache(FunctionCache):
    """Compiled code on disk. Where nothing may or can be written the next process compiles it anew."""

    def save_overload(self, signature: Any, compiled: Any) -> None:
        with suppress(OSError):
            super().save_overload(signature, compiled)  # type: ignore[no-untyped-call]
