"""Room on the disk: told early when it grows short, and kept for what must still work when there is none.

The database must never meet a full disk: before that, nothing is written but what frees room. A file is held in
reserve for the case that somebody else fills the disk; it is given up then, and laid down again when there is room.
"""

from __future__ import annotations

import shutil
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Literal

# Free bytes below which a maker is warned, and below which nothing is written.
LITTLE, NONE = 1024 * 2**20, 300 * 2**20
# Below this the reserve is given up; it is laid down again where there is more than LITTLE.
NEEDY = 150 * 2**20
RESERVE = 96 * 2**20
BLOCK = bytes(2**20)

Room = Literal["plenty", "little", "none"]


class Space:
    """The room where a folder lies; without a folder there is always plenty.

    free: tells the free bytes of a folder.
    """

    def __init__(self, folder: Path | None = None, free: Callable[[Path], int] | None = None) -> None:
        self._folder = folder
        self._free = free or _free

    def room(self) -> Room:
        free = self.free()
        if free is None or free >= LITTLE:
            return "plenty"
        return "little" if free >= NONE else "none"

    def free(self) -> int | None:
        """Bytes; None where nothing is known."""
        if self._folder is None:
            return None
        try:
            return self._free(self._folder)
        except OSError:
            return None

    def keep_reserve(self) -> None:
        """Lay the reserve down, or give it up, by the room that there is."""
        free = self.free()
        if self._folder is None or free is None:
            return
        reserve = self._folder / "reserve"
        if free < NEEDY:
            reserve.unlink(missing_ok=True)
        elif free > LITTLE + RESERVE and not reserve.exists():
            fresh = reserve.with_suffix(".new")
            with suppress(OSError):
                with fresh.open("wb") as file:
                    for _ in range(RESERVE // len(BLOCK)):
                        file.write(BLOCK)
                fresh.replace(reserve)
            fresh.unlink(missing_ok=True)


def _free(folder: Path) -> int:
    return shutil.disk_usage(folder).free
