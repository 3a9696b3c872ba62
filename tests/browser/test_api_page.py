"""The page that shows the API, under the page's own strict policy."""

from __future__ import annotations

from playwright.sync_api import Page, expect


def test_addresses_are_listed_and_can_be_tried(page: Page) -> None:
    outside: list[str] = []
    page.on("request", lambda r: outside.append(r.url) if "127.0.0.1" not in r.url and "://" in r.url else None)
    page.goto("/api/docs")
    listing = page.locator("#operations-pieces-listPieces")
    listing.get_by_role("button").first.click()
    listing.get_by_role("button", name="Try it out").click()
    listing.get_by_role("button", name="Execute").click()
    expect(listing.get_by_text("Server response")).to_be_visible()
    assert [url for url in outside if not url.startswith("data:")] == []
