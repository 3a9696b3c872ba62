"""A real MariaDB for the run, one database a run, and pictures to work with."""

from __future__ import annotations

import io
import os
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, settings
from PIL import Image
from sqlalchemy import Engine
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.picture.decode import Picture, decode
from drelo.store.database import engine_for, migrate, sessions
from drelo.store.server import Address, Server, create_database, drop_database

settings.register_profile(
    "drelo", deadline=None, max_examples=40, derandomize=True, suppress_health_check=[HealthCheck.too_slow]
)
# New examples every time: pytest --hypothesis-profile random.
settings.register_profile("random", deadline=None, max_examples=200, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("drelo")

ROOT = Path(__file__).resolve().parents[1]
Draw = Callable[[np.ndarray, np.ndarray], np.ndarray]


@pytest.fixture(scope="session")
def database() -> Iterator[Address]:
    with tempfile.TemporaryDirectory(prefix="drelo-test-") as folder, Server(Path(folder)) as address:
        yield address


@pytest.fixture(scope="session")
def engine(database: Address) -> Iterator[Engine]:
    name = f"drelo_test_{os.getpid()}"
    create_database(database, name)
    engine = engine_for(database.url(name))
    migrate(engine)
    yield engine
    engine.dispose()
    drop_database(database, name)


@pytest.fixture
def maker(engine: Engine) -> sessionmaker[Session]:
    return sessions(engine)


def png(image: Image.Image) -> bytes:
    packed = io.BytesIO()
    image.save(packed, "PNG")
    return packed.getvalue()


def covered(draw: Draw, width: int, height: int, over: int = 8) -> Image.Image:
    """A black shape on white with exact antialiasing: `draw` says which points (x, y in px) are ink."""
    x = (np.arange(width * over) + 0.5) / over
    y = (np.arange(height * over) + 0.5) / over
    ink = np.broadcast_to(draw(x[None, :], y[:, None]), (len(y), len(x))).astype(np.float64)
    coverage = ink.reshape(height, over, width, over).mean(axis=(1, 3))
    return Image.fromarray(np.round(255 * (1 - coverage)).astype(np.uint8))


def picture_of(draw: Draw, width: int, height: int) -> Picture:
    return decode(png(covered(draw, width, height)))


@pytest.fixture(scope="session")
def ring_png() -> bytes:
    """A ring of radii 120 and 60 px round (160, 150), and a square beside it, 420 × 300 px."""

    def draw(x: np.ndarray, y: np.ndarray) -> np.ndarray:
        r = np.hypot(x - 160, y - 150)
        return ((r < 120) & (r > 60)) | ((abs(x - 350) < 40) & (abs(y - 150) < 40))

    return png(covered(draw, 420, 300))
