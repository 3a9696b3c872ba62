"""Compiled loops run where they cannot be kept."""

from __future__ import annotations

import errno
import importlib.util
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numba
import pytest
from numba.core.caching import CompileResultCacheImpl, FunctionCache

LOOP = """
from drelo.core.compiled import compiled

@compiled
def total(count):
    found = 0
    for k in range(count):
        found += k
    return found
"""


@pytest.fixture
def load(tmp_path: Path) -> Callable[[], Any]:
    def load() -> Any:
        path = tmp_path / "loop.py"
        path.write_text(LOOP)
        spec = importlib.util.spec_from_file_location("loop", path)
        assert spec
        assert spec.loader
        found = importlib.util.module_from_spec(spec)
        spec.loader.exec_module(found)
        return found

    return load


def test_a_loop_is_kept_on_disk(load, tmp_path, monkeypatch):
    monkeypatch.setattr(numba.config, "CACHE_DIR", "")
    assert load().total(5) == 10
    assert list((tmp_path / "__pycache__").glob("loop.total*.nbi"))


def test_a_full_disk_does_not_keep_a_loop_from_running(load, monkeypatch):
    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(FunctionCache, "save_overload", full)
    assert load().total(5) == 10


def test_where_there_is_no_place_to_keep_it_a_loop_runs(load, monkeypatch):
    monkeypatch.setattr(CompileResultCacheImpl, "_locator_classes", [])
    assert load().total(5) == 10
