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

# What takes longer than two seconds, as `pytest --durations=0` has it: --quick leaves it out, with all that wants a
# browser, a web server or another process.
SLOW = frozenset(
    {
        "core/rehearsal/test_plan.py",
        "core/test_accuracy.py",
        "core/test_agree.py",
        "core/test_areas.py",
        "core/test_check.py",
        "core/test_clearance.py",
        "core/test_coded_edges.py",
        "core/test_coverage.py",
        "core/test_crossing.py",
        "core/test_fit.py",
        "core/test_flat_colours.py",
        "core/test_former.py",
        "core/test_forms.py",
        "core/test_grain.py",
        "core/test_hairlines.py",
        "core/test_look_over.py",
        "core/test_noding.py",
        "core/test_noise.py",
        "core/test_offset.py",
        "core/test_operations.py",
        "core/test_pens.py",
        "core/test_picture.py",
        "core/test_piece.py",
        "core/test_proposal.py",
        "core/test_prospects.py",
        "core/test_scorer.py",
        "core/test_shaping.py",
        "core/test_sharpen.py",
        "core/test_sheet.py",
        "core/test_skeleton.py",
        "core/test_solid.py",
        "core/test_stairs.py",
        "core/test_tiles.py",
        "formats/test_foreign.py",
        "formats/test_recipe_in.py",
        "formats/test_recipe_out.py",
        "formats/test_words_in.py",
        "store/test_backup.py",
        "store/test_cabinet.py",
        "store/test_demo.py",
        "store/test_store.py",
        "work/test_workers.py",
        "work/test_tasks.py",
    }
)
OUTER = ("browser", "web", "cli", "work")

ROOT = Path(__file__).resolve().parents[1]
Draw = Callable[[np.ndarray, np.ndarray], np.ndarray]


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--quick", action="store_true", help="what takes less than a minute altogether")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    if not config.getoption("--quick"):
        return
    here = Path(__file__).parent

    def is_quick(item: pytest.Item) -> bool:
        name = item.path.relative_to(here)
        return str(name) not in SLOW and name.parts[0] not in OUTER

    items[:] = [item for item in items if is_quick(item)]


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
