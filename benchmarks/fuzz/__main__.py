"""Spoils valid files of every kind and reads them: python -m benchmarks.fuzz [kind ...] [--count N | --seconds S]

A file must be read or refused, within 10 s and a gigabyte. Anything else is printed with the seeds that make it; the
process then ends with status 1. `--seed N --show` writes the file of one seed to the standard output.
"""

from __future__ import annotations

import argparse
import mmap
import os
import resource
import secrets
import signal
import struct
import sys
import time
import traceback
import warnings
from collections import Counter, defaultdict

from benchmarks.fuzz.samples import Kind, kinds
from benchmarks.fuzz.spoil import spoilt
from drelo.core.errors import Refusal

# s and bytes that reading may take.
SECONDS, MEMORY = 10, 1000 * 2**20
# So many are read by one process.
BATCH = 500
# So many seeds are told of each sort of fault.
SEEDS = 20


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    known = kinds()
    parser.add_argument("kinds", nargs="*", metavar="kind", help=f"of {', '.join(known)}; else all")
    parser.add_argument("--count", type=int, default=2000, metavar="N", help="files of each kind")
    parser.add_argument("--seconds", type=float, default=None, metavar="S", help="all kinds together, in place of N")
    parser.add_argument("--seed", type=int, default=None, metavar="N", help="the first; else one that is new each time")
    parser.add_argument("--show", action="store_true", help="write the file of the seed, and read none")
    args = parser.parse_args()
    if not set(args.kinds) <= set(known):
        parser.error(f"kinds are {', '.join(known)}")
    chosen = args.kinds or list(known)
    first = secrets.randbelow(2**40) if args.seed is None else args.seed
    if args.show:
        kind = known[chosen[0]]
        sys.stdout.buffer.write(spoilt(first, kind.samples, kind.is_text))
        return 0
    bad = 0
    for name in chosen:
        until = None if args.seconds is None else time.monotonic() + args.seconds / len(chosen)
        bad += fuzz(name, known[name], first, args.count, until)
    return 1 if bad else 0


def fuzz(name: str, kind: Kind, first: int, count: int, until: float | None) -> int:
    """How many files of a kind were neither read nor refused; prints each sort of them once."""
    begin, done = time.monotonic(), 0
    found: Counter[str] = Counter()
    seeds: defaultdict[str, list[int]] = defaultdict(list)
    while time.monotonic() < until if until is not None else done < count:
        size = BATCH if until is not None else min(BATCH, count - done)
        went, faults = batch(kind, first + done, size)
        for seed, fault in faults:
            found[fault] += 1
            seeds[fault].append(seed)
        done += went
    print(f"{name}: {done} files from seed {first} in {time.monotonic() - begin:.0f} s, {sum(found.values())} faults")
    for fault, times in found.most_common():
        print(f"  {times} × {fault} (seed {', '.join(map(str, seeds[fault][:SEEDS]))})")
    sys.stdout.flush()
    return sum(found.values())


def batch(kind: Kind, first: int, size: int) -> tuple[int, list[tuple[int, str]]]:
    """How many files a process read, and what was wrong with which seeds. It may end over the last one."""
    shared = mmap.mmap(-1, 2**20)
    child = os.fork()
    if child == 0:
        try:
            _limit()
            _read(kind, first, size, shared)
        finally:
            os._exit(0)
    _, status = os.waitpid(child, 0)
    done, length = struct.unpack_from("<QQ", shared)
    told = bytes(shared[16 : 16 + length]).decode().split("\0") if length else []
    faults = [(int(line.partition(" ")[0]), line.partition(" ")[2]) for line in told if line]
    if status and done < size:
        ended = signal.Signals(os.WTERMSIG(status)).name if os.WIFSIGNALED(status) else f"status {status}"
        what = f"more than {SECONDS} s" if ended == "SIGALRM" else ended
        return done + 1, [*faults, (first + done, what)]
    return done, faults


def _limit() -> None:
    with open("/proc/self/statm", "rb") as file:
        now = int(file.read().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (now + MEMORY, now + MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    signal.signal(signal.SIGALRM, signal.SIG_DFL)
    warnings.simplefilter("ignore")
    # What libraries print of what they read is no fault.
    sink = os.open(os.devnull, os.O_WRONLY)
    os.dup2(sink, 1)
    os.dup2(sink, 2)


def _read(kind: Kind, first: int, size: int, shared: mmap.mmap) -> None:
    told = b""
    for number in range(size):
        data = spoilt(first + number, kind.samples, kind.is_text)
        signal.alarm(SECONDS)
        try:
            kind.read(data)
        except (Refusal, MemoryError):
            # Out of memory is refused by the guard that readers stand behind.
            pass
        except BaseException as error:
            if "bad_alloc" in str(error):
                continue
            place = traceback.extract_tb(error.__traceback__)[-1]
            told += f"{first + number} {type(error).__name__} at {place.name}:{place.lineno}: {error}"[:300].encode()
            told += b"\0"
        signal.alarm(0)
        shared[16 : 16 + len(told)] = told[: 2**20 - 16]
        struct.pack_into("<QQ", shared, 0, number + 1, min(len(told), 2**20 - 16))


if __name__ == "__main__":
    sys.exit(main())
