"""Who waits for news of a piece is told at once: one thread asks for all pieces that anybody watches."""

from __future__ import annotations

import logging
import threading
import time
from collections import Counter
from collections.abc import Callable, Collection, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass

from sqlalchemy.exc import SQLAlchemyError

log = logging.getLogger(__name__)
# So often it is asked what has become of the pieces that are watched, s.
LOOK = 0.4


@dataclass(frozen=True)
class News:
    """How a piece stands. revision: what is shown; by: what who made it is called. here: accounts that have it open."""

    revision: int
    by: str | None
    here: frozenset[str]


Look = Callable[[Collection[str]], Mapping[str, News]]
"""The news of pieces; one that is not there any more is left out."""


class Watching:
    def __init__(self, look: Look) -> None:
        self._look = look
        # Guards all below; told when something is new.
        self._changed = threading.Condition()
        self._watched: Counter[str] = Counter()
        self._news: Mapping[str, News] = {}
        self._looked: dict[str, int] = {}
        self._thread: threading.Thread | None = None
        self._closed = False

    def __len__(self) -> int:
        """How many watch."""
        with self._changed:
            return self._watched.total()

    @contextmanager
    def on(self, piece: str) -> Iterator[None]:
        """While it lasts, the piece is asked about."""
        with self._changed:
            self._watched[piece] += 1
            if self._thread is None:
                self._thread = threading.Thread(target=self._go_on, name="watching", daemon=True)
                self._thread.start()
        try:
            yield
        finally:
            with self._changed:
                self._watched[piece] -= 1
                if not self._watched[piece]:
                    del self._watched[piece]
                    self._looked.pop(piece, None)

    def wait(self, piece: str, known: News | None, seconds: float) -> News | None:
        """What is new of a piece that is watched; what was known after so long; None where it has gone, or all ends."""
        until = time.monotonic() + seconds
        with self._changed:
            while True:
                if self._closed:
                    return None
                if self._looked.get(piece):
                    found = self._news.get(piece)
                    if found is None or found != known:
                        return found
                left = until - time.monotonic()
                if left <= 0:
                    return known
                self._changed.wait(left)

    def close(self) -> None:
        """Nobody is told any more."""
        with self._changed:
            self._closed = True
            self._changed.notify_all()

    def _go_on(self) -> None:
        while True:
            with self._changed:
                pieces = list(self._watched)
                if not pieces or self._closed:
                    self._thread, self._news = None, {}
                    return
            try:
                found = self._look(pieces)
            except SQLAlchemyError as error:
                log.warning("there is no news of pieces: %s", error)
            except Exception:
                # Others that watch are told by this thread, too.
                log.exception("there is no news of pieces")
            else:
                with self._changed:
                    self._news = found
                    for piece in pieces:
                        self._looked[piece] = self._looked.get(piece, 0) + 1
                    self._changed.notify_all()
            time.sleep(LOOK)
