"""`drelo piece`: list pieces, export one as an archive, or import one."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from drelo.application import archives
from drelo.application.bench import Bench
from drelo.cli.files import read, write
from drelo.cli.folder import DATABASE, data_folder, database, step
from drelo.core.errors import Refusal
from drelo.formats.piece_archive import MAX_BYTES
from drelo.store.database import engine_for, migrate, sessions
from drelo.store.pieces import new_id
from drelo.work.pool import Pool


def add_arguments(parser: argparse.ArgumentParser) -> None:
    ways = parser.add_subparsers(dest="way", required=True, metavar="list|export|import")
    ways.add_parser("list", help="every piece: its id and name")
    out = ways.add_parser("export", help="a piece as one open file")
    out.add_argument("piece", metavar="PIECE", help="its id, or its name where only one has it")
    out.add_argument("-o", "--out", type=Path, required=True, metavar="OUT.zip")
    into = ways.add_parser("import", help="a piece from such a file, as a new one")
    into.add_argument("file", type=Path, metavar="FILE.zip")


def run(args: argparse.Namespace) -> None:
    """Work on the data folder, beside a Drelo that runs on it."""
    data = read(args.file, "The archive", MAX_BYTES) if args.way == "import" else b""
    with _bench() as bench:
        if args.way == "list":
            for card in bench.pieces.all():
                print(f"{card.id}  {card.name}")
        elif args.way == "export":
            piece = _found(bench, args.piece)
            packed = archives.archive_of(bench, piece)
            write(args.out, packed)
            print(f"{args.out}: {bench.pieces.title(piece)}, {len(packed) / 2**20:.1f} MB")
        else:
            key = new_id()
            state = archives.keep(bench, key, archives.take(bench, key, data))
            print(f"{state.id}  {state.name}")


def _found(bench: Bench, wanted: str) -> str:
    cards = bench.pieces.all()
    if any(card.id == wanted for card in cards):
        return wanted
    called = [card.id for card in cards if card.name.casefold() == wanted.casefold()]
    if len(called) == 1:
        return called[0]
    if called:
        raise Refusal("piece.several-of-that-name", count=len(called), wanted=wanted)
    raise Refusal("piece.none-of-that-name", wanted=wanted)


@contextmanager
def _bench() -> Iterator[Bench]:
    with database(data_folder(), beside=True) as address:
        engine = engine_for(address.url(DATABASE))
        step("database", lambda: migrate(engine))
        pool = Pool(1)
        try:
            yield Bench.on(sessions(engine), pool)
        finally:
            pool.close()
            engine.dispose()
