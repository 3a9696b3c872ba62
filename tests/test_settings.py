"""Settings from the environment, the log that they shape, and the figures for monitors."""

from __future__ import annotations

import json
import logging
from pathlib import Path

import pytest

from drelo.cli import logs
from drelo.settings import PREFIX, Settings, settings
from tests.refusals import refused

DOCS = Path(__file__).resolve().parents[1] / "docs" / "settings.md"


def test_the_environment_is_read(monkeypatch, tmp_path):
    monkeypatch.setenv("DRELO_DATA", str(tmp_path / "here"))
    monkeypatch.setenv("DRELO_WORKERS", "3")
    monkeypatch.setenv("DRELO_PORT", "")
    chosen = settings()
    assert (chosen.data, chosen.workers, chosen.port) == (tmp_path / "here", 3, 8137)


@pytest.mark.parametrize(
    ("name", "value"),
    [("WORKERS", "none"), ("WORKERS", "0"), ("PORT", "70000"), ("LOG_LEVEL", "loud"), ("PRINTER", "file:/x")],
)
def test_what_cannot_be_is_named(monkeypatch, name, value):
    monkeypatch.setenv(PREFIX + name, value)
    with refused(f"{PREFIX}{name} cannot be '{value}'"):
        settings()


def test_every_setting_is_described():
    text = DOCS.read_text()
    for name in Settings.model_fields:
        assert f"`{PREFIX}{name.upper()}`" in text


@pytest.fixture
def plain_log():
    root = logging.getLogger()
    before = (root.handlers, root.level)
    yield
    for handler in root.handlers:
        handler.close()
    root.handlers, root.level = before


def test_a_line_is_json_and_long_logs_are_put_aside(tmp_path, plain_log):
    path = logs.install(tmp_path, Settings(log_mb=1, log_files=2))
    try:
        raise ValueError("broken")
    except ValueError:
        logging.getLogger("drelo.test").exception("It failed.")
    line = json.loads(path.read_text().splitlines()[-1])
    assert (line["level"], line["request"], line["where"], line["message"]) == (
        "error",
        "-",
        "drelo.test",
        "It failed.",
    )
    assert "ValueError: broken" in line["error"]
    for _ in range(40):
        logging.getLogger("drelo.test").info("x" * 100_000)
    assert sorted(p.name for p in tmp_path.iterdir()) == ["drelo.log", "drelo.log.1", "drelo.log.2"]
    assert all(p.stat().st_size <= 2**20 for p in tmp_path.iterdir())


def test_what_is_not_wanted_is_not_written(tmp_path, plain_log):
    path = logs.install(tmp_path, Settings(log_level="error"))
    logging.getLogger("drelo.test").warning("hm")
    assert path.read_text() == ""
