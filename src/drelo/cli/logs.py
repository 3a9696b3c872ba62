"""What is logged: a line of JSON each, in files that are put aside when they grow long and stay over a restart.

Nothing of a maker's is in it: no names, words or files, only what happened to which request.
"""

from __future__ import annotations

import json
import logging
from collections.abc import Callable
from datetime import UTC, datetime
from logging.handlers import RotatingFileHandler
from pathlib import Path

from drelo.settings import Settings

NAME = "drelo.log"


class Lines(logging.Formatter):
    """One JSON object a line.

    number: tells the number of the request that is answered.
    """

    def __init__(self, number: Callable[[], str]) -> None:
        super().__init__()
        self._number = number

    def format(self, record: logging.LogRecord) -> str:
        line = {
            "time": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "request": self._number(),
            "where": record.name,
            "message": record.getMessage(),
        }
        if record.exc_info:
            line["error"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False)


def install(folder: Path, chosen: Settings, number: Callable[[], str] = lambda: "-", name: str = NAME) -> Path:
    """Log into a folder from now on; warnings and worse go to the terminal too. Raises OSError.

    number: tells the number of the request that is answered. name: of the file; each process has its own.
    """
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / name
    kept = RotatingFileHandler(path, maxBytes=chosen.log_mb * 2**20, backupCount=chosen.log_files, encoding="utf-8")
    kept.setFormatter(Lines(number))
    seen = logging.StreamHandler()
    seen.setLevel(logging.WARNING)
    seen.setFormatter(logging.Formatter("%(message)s"))
    root = logging.getLogger()
    root.handlers = [kept, seen]
    root.setLevel(chosen.log_level.upper())
    # These tell of every request and every image chunk.
    for noisy in ("PIL", "waitress.queue", "fontTools", "alembic", "numba"):
        logging.getLogger(noisy).setLevel(logging.WARNING)
    return path
