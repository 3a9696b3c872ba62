"""Loops over pixels and points that a measurement showed to need a compiler."""

from __future__ import annotations

import sys
from collections.abc import Callable
from contextlib import suppress
from typing import Any, TypeVar, cast

# The compiler asks for the package that measures coverage, which takes longer to load than a dozen loops.
_UNASKED = sys.modules.setdefault("coverage", None) is None  # type: ignore[arg-type]

import numba  # noqa: E402
import numba.np.linalg  # noqa: E402
from numba.core.caching import FunctionCache  # noqa: E402
from numba.core.runtime.nrt import rtsys  # noqa: E402

if _UNASKED:
    del sys.modules["coverage"]

# No loop multiplies matrices, and the library for it takes as long to load as a small picture to trace.
numba.np.linalg.ensure_blas = lambda: None

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

    def load_overload(self, signature: Any, context: Any) -> Any:
        """The code that is kept for these types, without all that only compiling needs; None where there is none."""
        rtsys.initialize(context)
        with self._guard_against_spurious_io_errors():
            found = self._load_overload(signature, context)  # type: ignore[no-untyped-call]
        if found is None:
            context.refresh()
        return found

    def save_overload(self, signature: Any, compiled: Any) -> None:
        with suppress(OSError):
            super().save_overload(signature, compiled)  # type: ignore[no-untyped-call]
