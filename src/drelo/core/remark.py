"""What a maker is told about a piece without being stopped."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Remedy = Literal["one plate", "own grip", "handle", "clip", "hole"]


@dataclass(frozen=True)
class Remark:
    """What is wrong and what mends it; lengths in mm. at: where, mm, as the art lies, y up.

    remedy: what would mend it by itself, and size: of what it takes, mm.
    """

    text: str
    at: tuple[float, float] | None = None
    remedy: Remedy | None = None
    size: float = 0.0

    def __str__(self) -> str:
        """With the place in words, for where none can be shown."""
        return self.text if self.at is None else f"{self.text} (At x {self.at[0]:.1f}, y {self.at[1]:.1f}.)"
