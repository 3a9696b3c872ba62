"""The real interface in Debian's Chromium, against a real server."""

from __future__ import annotations

import json
import os
import threading
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, sync_playwright
from sqlalchemy import Engine

from drelo.application.bench import Bench
from drelo.application.device import Device
from drelo.device.process import Process
from drelo.store.database import sessions
from drelo.web.app import create_app
from drelo.web.listening import listening
from drelo.work.pool import Pool

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium")
FLAGS = [
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--enable-unsafe-swiftshader",
    "--ignore-gpu-blocklist",
]


@pytest.fixture(scope="session")
def printer(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Process]:
    """The stand-in printer, as the start command starts it."""
    with Process(tmp_path_factory.mktemp("printer")) as running:
        yield running


@pytest.fixture(scope="session")
def bench(engine: Engine, printer: Process) -> Iterator[Bench]:
    maker = sessions(engine)
    pool = Pool(2)
    # The first test would wait for the workers longer than a page is waited for on a loaded machine.
    pool.warm()
    for aside in (False, True):
        pool.run("", bool, aside=aside)
    yield Bench.on(maker, pool, device=Device(lambda: printer.address))
    pool.close()


@pytest.fixture(scope="session")
def address(bench: Bench) -> Iterator[str]:
    server = listening(create_app(bench), 0)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.effective_port}"
    server.close()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield browser
        browser.close()


# Every section of a panel is open, as a maker may leave it.
FOLDS = (
    "Pour", "Mirror or repeat", "Motifs", "Ties", "Line width", "Hanging hole", "Measure", "Snap to",
    "Pick more, drop scraps", "Print", "Blade", "Holes and inner lines", "Rim, inlays, top", "Frame and feet",
)  # fmt: skip
UNFOLDED = f"localStorage.setItem('drelo.folds', JSON.stringify({json.dumps(dict.fromkeys(FOLDS, True))}))"


@pytest.fixture
def context(browser: Browser, address: str) -> Iterator[BrowserContext]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    context.set_default_timeout(30_000)
    context.add_init_script(UNFOLDED)
    yield context
    context.close()


@pytest.fixture
def page(context: BrowserContext) -> Iterator[Page]:
    page = context.new_page()
    wrong: list[str] = []
    page.on("pageerror", lambda error: wrong.append(str(error)))
    page.on(
        "console",
        lambda m: wrong.append(m.text) if m.type == "error" and "Failed to load" not in m.text else None,
    )
    yield page
    assert wrong == [], "the page reported errors"
