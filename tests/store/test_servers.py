"""Several servers on one computer leave each other alone."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from drelo.store.server import Server, create_database


def test_servers_that_are_made_at_the_same_time_all_answer(tmp_path: Path) -> None:
    def made(number: int) -> int:
        with Server(tmp_path / str(number)) as address:
            create_database(address, "drelo_side")
            with address.connect() as connection, connection.cursor() as cursor:
                cursor.execute("SELECT 1")
                return cursor.fetchone()[0]

    # Made one after the other as well: what one tidies up must not be another's.
    with ThreadPoolExecutor(4) as side_by_side:
        assert list(side_by_side.map(made, range(8))) == [1] * 8
