"""What a height costs on a document of very many things: in the core, stored and answered, and in the list."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from sqlalchemy import func, select

from benchmarks.many.drawing import document
from benchmarks.page import call, got
from benchmarks.server import Served, served
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import Picked, SetRegions
from drelo.store.models import Revision

# Growth is told from the fewest to the most, per thing.
FEWEST, MOST = 500, 20_000
LISTED = 500
REPEATS = 7


def documents(count: int) -> None:
    """Prints a table for the fewest things, `count` of them and the most; then the list of 500 such pieces."""
    print(f"{'things':>8}{'validate':>10}{'apply':>8}{'edit':>8}{'answer':>9}{'stored':>9}   ms, ms, ms, bytes, bytes")
    with tempfile.TemporaryDirectory() as folder, served(Path(folder)) as application:
        rows = {}
        for things in sorted({FEWEST, count, MOST}):
            rows[things] = _row(application, things)
            validated, applied, edited, answer, stored = rows[things]
            print(f"{things:8d}{validated:10.1f}{applied:8.2f}{edited:8.0f}{answer:9d}{stored:9d}", flush=True)
        few, many = rows[FEWEST], rows[MOST]
        grown = [many[i] / few[i] / (MOST / FEWEST) for i in range(3)]
        print("growth a thing from {} to {}: {:.2f}, {:.2f}, {:.2f}".format(FEWEST, MOST, *grown))
        _list(application, document(count))


def _row(application: Served, things: int) -> tuple[float, float, float, int, int]:
    """Medians in ms of validating, applying a height, and an edit there and back; bytes of its answer and its row."""
    made = document(things)
    text = made.model_dump_json()
    validated = _median(lambda _: Document.model_validate_json(text))
    applied = _median(lambda i: apply(made, _height(made, i)))
    state = application.bench.pieces.create("Many", made)
    path = f"/api/pieces/{state.id}/edits"
    bench, _, _ = call(application.address, path, _body(state.revision, _height(made, 0), changes_only=False))
    revision, waits, answer = bench["piece"]["revision"], [], 0
    for i in range(REPEATS):
        reply, answer, seconds = call(application.address, path, _body(revision, _height(made, i), changes_only=True))
        revision = reply["piece"]["revision"]
        waits.append(1000 * seconds)
    with application.sessions() as session:
        change = func.length(Revision.change)
        stored = session.scalar(select(change).where(Revision.id == revision)) or 0
    return validated, applied, statistics.median(waits), answer, stored


def _list(application: Served, made: Document) -> None:
    for i in range(LISTED):
        application.bench.pieces.create(f"Many {i}", made)
    waits = [1000 * got(application.address, "/api/pieces")[2] for _ in range(REPEATS)]
    print(f"list of {LISTED} such pieces: median {statistics.median(waits):.0f} ms, worst {max(waits):.0f} ms")


def _height(made: Document, turn: int) -> SetRegions:
    choice = made.regions[(turn * 97 + 5) % len(made.regions)]
    return SetRegions(picked=(Picked(id=choice.id, mark=choice.mark),), height=6 + turn / 10)


def _body(revision: int, edit: SetRegions, changes_only: bool) -> dict[str, object]:
    return {"revision": revision, "edit": edit.model_dump(mode="json"), "changes_only": changes_only}


def _median(act: Callable[[int], object]) -> float:
    """Median milliseconds of an act that is told which time it is."""
    waits = []
    for i in range(REPEATS):
        begin = time.perf_counter()
        act(i)
        waits.append(1000 * (time.perf_counter() - begin))
    return statistics.median(waits)
