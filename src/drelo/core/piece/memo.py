"""A memory of stages, keyed by the content that went in."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import TypeVar

T = TypeVar("T")

KEEP = 600
# Of single outlines so many: two or three steps of what each of the largest number of them goes through.
KEEP_SMALL = 60_000
# Of documents, and of the long lists in them, so many are known by being the very same object.
KEEP_SAME = 160


class Memo:
    """Keeps the latest results; the same key always stands for the same content.

    What is worked out of a whole piece is large and few are kept; of single outlines, very many are.
    """

    def __init__(self, keep: int = KEEP, keep_small: int = KEEP_SMALL) -> None:
        self._large = _Latest(keep)
        self._small = _Latest(keep_small)
        self._same = _Latest(KEEP_SAME)

    def get(self, key: Hashable, compute: Callable[[], T]) -> T:
        """The value of `key`, computed when it is not remembered."""
        return self._large.get(key, compute)

    def small(self, key: Hashable, compute: Callable[[], T]) -> T:
        """The same for what belongs to a single outline."""
        return self._small.get(key, compute)

    def of(self, value: object, key: Hashable, compute: Callable[[], T]) -> T:
        """The same for what follows from this very object, which never changes, and a key.

        Long lists of a document stay the same objects from edit to edit; to compare their content would cost more.
        """

        def held() -> tuple[object, T]:
            return value, compute()

        # The object is held, so that its number stays its own.
        return self._same.get((id(value), key), held)[1]

    def halve(self) -> None:
        """Forget the older half of all, where memory grows short."""
        for latest in (self._large, self._small, self._same):
            latest.halve()


class _Latest:
    def __init__(self, keep: int) -> None:
        self._keep = keep
        self._values: OrderedDict[Hashable, object] = OrderedDict()

    def get(self, key: Hashable, compute: Callable[[], T]) -> T:
        if key in self._values:
            self._values.move_to_end(key)
            return self._values[key]  # type: ignore[return-value]
        value = compute()
        self._values[key] = value
        while len(self._values) > self._keep:
            self._values.popitem(last=False)
        return value

    def halve(self) -> None:
        for _ in range(len(self._values) // 2):
            self._values.popitem(last=False)
