"""A piece leaves as an archive and comes in again by drop, on the page."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.hand import begin, drop, saved, stop
from tests.browser.test_raise import two_bars


def test_an_archive_is_exported_and_dropped_on_the_pieces(page: Page, tmp_path: Path) -> None:
    begin(page, two_bars(), "bars.png")
    stop(page, "Raise")
    field = page.get_by_role("textbox", name="Thickness").first
    field.fill("3.6")
    field.press("Enter")
    saved(page)
    page.get_by_role("button", name="Export").click()
    page.get_by_role("radio", name="Archive").click()
    expect(page.get_by_text("to keep or to open on another machine")).to_be_visible()
    with page.expect_download() as leaving:
        page.get_by_role("button", name="Export archive").click()
    assert leaving.value.suggested_filename == "bars-piece.zip"
    path = tmp_path / "bars-piece.zip"
    leaving.value.save_as(path)
    first = page.url
    page.goto("/")
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()
    drop(page, "bars-piece.zip", path.read_bytes(), "application/zip")
    page.wait_for_url(re.compile("/bench/"))
    assert page.url != first
    stop(page, "Raise")
    expect(page.get_by_role("textbox", name="Thickness").first).to_have_value("3.6")
    expect(page.get_by_role("group", name="Regions", exact=True).get_by_role("listitem")).to_have_count(2)


def test_what_is_no_archive_is_said_in_words(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()
    drop(page, "broken.zip", b"PK\x03\x04 not a zip at all", "application/zip")
    expect(page.get_by_text(re.compile("The ZIP cannot be read")).first).to_be_visible()
