"""A memory of stages, keyed by the content that went in."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import TypeVar

T = TypeVar("T")


class Memo:
    """Keeps the latest results; the same key always stands for the same content."""

    def __init__(self, keep: int = 48) -> None:
        self._keep = keep
        self._values: OrderedDict[Hashable, object] = OrderedDict()

    def get(self, key: Hashable, compute: Callable[[], T]) -> T:
        """The value of `key`, computed when it is not remembered."""
        if key in self._values:
            self._values.move_to_end(key)
            return self._values[key]  # type: ignore[return-value]
        value = compute()
        self._values[key] = value
        while len(self._values) > self._keep:
            self._values.popitem(last=False)
        return value
