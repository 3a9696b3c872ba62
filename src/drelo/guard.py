"""Foreign files are read in a process that can be thrown away, under a ceiling of memory and a deadline.

A file may be drawn to break its reader. Whatever it does there, to run for ever, to eat all memory, to crash, ends
with that process; only plain values come back.
"""

from __future__ import annotations

import ctypes
import io
import logging
import mmap
import os
import pickle
import resource
import select
import signal
import struct
import time
from collections.abc import Callable, Sequence
from typing import Any, NoReturn, TypeVar

from drelo.core.errors import Refusal

T = TypeVar("T")
log = logging.getLogger(__name__)

# A reader may take so long, s, and so much memory beyond what its process had, bytes.
SECONDS = 20.0
MEMORY = 1000 * 2**20
# What comes back may have so many bytes.
RESULT = 1200 * 2**20
# Of what comes back only these are made: our own values, arrays, and plain collections.
_OURS = ("drelo.core.", "drelo.formats.")
_OTHERS = frozenset(
    {
        *(("builtins", name) for name in ("set", "frozenset", "slice", "range", "complex", "bytearray")),
        ("numpy", "ndarray"),
        ("numpy", "dtype"),
        *(("numpy._core.multiarray", name) for name in ("_reconstruct", "scalar")),
        ("numpy._core.numeric", "_frombuffer"),
    }
)
_PR_SET_PDEATHSIG, _PR_SET_NO_NEW_PRIVS = 1, 38
# The version of the kernel's list of capabilities.
_CAPABILITIES = 0x20080522
_GOOD, _REFUSED, _NO_MEMORY, _BROKEN = range(4)


def guarded(
    read: Callable[..., T],
    *arguments: Any,
    what: str = "file",
    field: str = "",
    seconds: float = SECONDS,
    memory: int = MEMORY,
) -> T:
    """What `read(*arguments)` gives, worked out in a process of its own.

    what, field: how a refusal names the file, and the field that it is about. seconds, memory (bytes): the limits.

    Raises Refusal when the reader refuses, takes longer or more memory, breaks off or crashes.
    """
    result = os.memfd_create("drelo-read")
    child = 0
    try:
        child = os.fork()
        if child == 0:
            _work(result, read, arguments, seconds, memory)
        if not _ends(child, seconds):
            raise Refusal("guard.too-slow", field, what=what, seconds=seconds)
        kind, value = _received(result)
    finally:
        os.close(result)
        if child:
            # Until it is waited for its number stays its own.
            os.kill(child, signal.SIGKILL)
            os.waitpid(child, 0)
    if kind == _GOOD:
        good: T = value
        return good
    if kind == _REFUSED:
        raise value
    if kind == _NO_MEMORY:
        raise Refusal("guard.too-much-memory", field, what=what, megabytes=memory // 2**20)
    log.warning("reading the %s ended with %s", what, value)
    raise Refusal("guard.damaged", field, what=what)


def _work(result: int, read: Callable[..., Any], arguments: Sequence[Any], seconds: float, memory: int) -> NoReturn:
    """What the process does that can be thrown away."""
    status = 1
    try:
        # Should its parent be killed, it ends too; what the parent heeds is not for it.
        drop_rights()
        end_with_parent()
        signal.signal(signal.SIGUSR1, signal.SIG_IGN)
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        _limit(resource.RLIMIT_AS, _address_space() + memory)
        _limit(resource.RLIMIT_CPU, int(seconds) + 1)
        _limit(resource.RLIMIT_FSIZE, RESULT)
        _limit(resource.RLIMIT_CORE, 0)
        _send(result, *_tried(read, arguments))
        status = 0
    finally:
        # Nothing of the parent's is tidied up here: not its files, its locks or what it does at its end.
        os._exit(status)


def end_with_parent(by: int = signal.SIGKILL) -> None:
    """However the process that started this one ends, this one is sent the signal `by` then."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, by)


def drop_rights(but: int | None = None) -> None:
    """Whoever started it, this thread has none of the rights that root has beyond other accounts, and never gets any.

    but: the number of a capability, below 32, that it keeps. What it starts from now on, threads and processes, has no
    more. It stays who it is: as another account it could not load compiled loops from where they are kept.
    """
    kept = 0 if but is None else 1 << but
    library = ctypes.CDLL(None)
    library.prctl(_PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0)
    # Effective, permitted and inheritable ones, the lower 32 and then the others.
    library.capset((ctypes.c_uint32 * 2)(_CAPABILITIES, 0), (ctypes.c_uint32 * 6)(kept, kept))


def _tried(read: Callable[..., Any], arguments: Sequence[Any]) -> tuple[int, Any]:
    try:
        return _GOOD, read(*arguments)
    except Refusal as refusal:
        return _REFUSED, refusal
    except MemoryError:
        return _NO_MEMORY, None
    except BaseException as error:
        if "bad_alloc" in str(error):
            return _NO_MEMORY, None
        return _BROKEN, f"{type(error).__name__}: {error}"[:400]


def _limit(kind: int, value: int) -> None:
    _, hard = resource.getrlimit(kind)
    value = value if hard == resource.RLIM_INFINITY else min(value, hard)
    resource.setrlimit(kind, (value, value))


def _address_space() -> int:
    with open("/proc/self/statm", "rb") as file:
        return int(file.read().split()[0]) * resource.getpagesize()


def _ends(child: int, seconds: float) -> bool:
    """Whether the process ends by itself in time."""
    handle = os.pidfd_open(child)
    try:
        waiting = select.poll()
        waiting.register(handle, select.POLLIN)
        until = time.monotonic() + seconds
        while (left := until - time.monotonic()) > 0:
            if waiting.poll(left * 1000):
                return True
        return False
    finally:
        os.close(handle)


def _send(result: int, kind: int, value: Any) -> None:
    """Written as sizes, the value, and the bytes of its arrays, each where an array may begin."""
    buffers: list[pickle.PickleBuffer] = []
    try:
        body = pickle.dumps((kind, value), 5, buffer_callback=buffers.append)
    except MemoryError:
        body, buffers = pickle.dumps((_NO_MEMORY, None), 5), []
    raw = [buffer.raw() for buffer in buffers]
    with os.fdopen(os.dup(result), "wb") as file:
        file.write(struct.pack(f"<Q{len(raw) + 1}Q", len(raw), len(body), *(len(r) for r in raw)))
        file.write(body)
        for r in raw:
            file.write(bytes(-file.tell() % mmap.PAGESIZE))
            file.write(r)


def _received(result: int) -> tuple[int, Any]:
    size = os.fstat(result).st_size
    if size < 16:
        # It crashed before it could say anything; out of memory is the likeliest way to.
        return _BROKEN, "a crash"
    # Arrays stay in what was written: no second copy is made of a large picture.
    shared = mmap.mmap(result, size, access=mmap.ACCESS_COPY)
    try:
        (count,) = struct.unpack_from("<Q", shared)
        sizes = struct.unpack_from(f"<{count + 1}Q", shared, 8)
        at = 8 * (count + 2) + sizes[0]
        body = shared[8 * (count + 2) : at]
        buffers = []
        whole = memoryview(shared)
        for length in sizes[1:]:
            at += -at % mmap.PAGESIZE
            buffers.append(whole[at : at + length])
            at += length
        kind, value = _Values(io.BytesIO(body), buffers=buffers).load()
    except (struct.error, pickle.UnpicklingError, EOFError, ValueError, IndexError) as error:
        return _BROKEN, f"an answer that cannot be read: {error}"
    return int(kind), value


class _Values(pickle.Unpickler):
    """Makes nothing but values."""

    def find_class(self, module: str, name: str) -> Any:
        if (module, name) in _OTHERS:
            return super().find_class(module, name)
        # A name with dots would lead from our modules to what they import; what is no class would be called.
        if module.startswith(_OURS) and "." not in name:
            found = super().find_class(module, name)
            if isinstance(found, type) and found.__module__ == module:
                return found
        raise pickle.UnpicklingError(f"{module}.{name} is no plain value")
