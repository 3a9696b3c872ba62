"""Processes below a process, as /proc has them."""

from __future__ import annotations

import os
from pathlib import Path


def children(parent: int) -> list[int]:
    """Processes below a process, all the way down."""
    found = []
    for entry in os.scandir("/proc"):
        if entry.name.isdigit():
            try:
                fields = Path(f"/proc/{entry.name}/stat").read_text().rpartition(")")[2].split()
            except OSError:
                continue
            if int(fields[1]) == parent and fields[0] != "Z":
                found += [int(entry.name), *children(int(entry.name))]
    return found


def words(number: int) -> str:
    try:
        return Path(f"/proc/{number}/cmdline").read_bytes().decode(errors="replace")
    except OSError:
        return ""
