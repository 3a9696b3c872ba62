from __future__ import annotations

from collections.abc import Iterator

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Engine

from drelo.application.bench import Bench
from drelo.store.database import sessions
from drelo.web.app import create_app
from drelo.work.pool import Pool


@pytest.fixture(scope="session")
def pool() -> Iterator[Pool]:
    pool = Pool(2)
    yield pool
    pool.close()


@pytest.fixture(scope="session")
def bench(engine: Engine, pool: Pool) -> Bench:
    maker = sessions(engine)
    return Bench.on(maker, pool)


@pytest.fixture
def client(bench: Bench) -> FlaskClient:
    return create_app(bench).test_client()
