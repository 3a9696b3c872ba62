"""What may be dropped: drawings and recipes, on the page of all pieces and on the bench."""

from __future__ import annotations

import json
import re

from playwright.sync_api import Page, expect

from drelo.formats.archive import zipped
from tests.browser.hand import drop, saved

SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="48mm" height="30mm" viewBox="0 0 48 30">
<rect width="48" height="30" rx="4" fill="#2e3a4d"/><circle cx="14" cy="15" r="8" fill="#efe3c8"/></svg>"""
RECIPE = {
    "drelo": 1,
    "art": {"file": "art.svg"},
    "heights": [{"fill": "#efe3c8", "height": 2.4, "name": "Moon"}, {"fill": "#2e3a4d", "height": 0.8}],
}


def all_pieces(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()


def place_it(page: Page) -> None:
    expect(page.locator("[data-true-size]")).to_contain_text("48")
    page.get_by_role("button", name="Place it").click()
    expect(page.locator("[data-region]")).to_have_count(2)


def test_a_drawing_that_is_dropped_begins_a_piece_at_its_true_size(page):
    all_pieces(page)
    drop(page, "night-moon.svg", SVG, "image/svg+xml")
    page.wait_for_url(re.compile("/bench/"))
    place_it(page)
    saved(page)
    expect(page.get_by_role("textbox", name="Name of the piece")).to_have_value("Night moon")


def test_a_drawing_that_is_dropped_on_an_empty_bench_is_looked_at_first(page):
    all_pieces(page)
    page.get_by_role("button", name="New empty piece").click()
    page.wait_for_url(re.compile("/bench/"))
    expect(page.get_by_role("heading", name="Start with a picture")).to_be_visible()
    drop(page, "moon.svg", b"<svg", "image/svg+xml")
    expect(page.get_by_role("alert")).to_be_visible()
    drop(page, "moon.svg", SVG, "image/svg+xml")
    expect(page.get_by_role("alert")).to_have_count(0)
    place_it(page)


def test_a_recipe_that_is_dropped_is_the_piece_that_it_was(page):
    all_pieces(page)
    packed = zipped({"recipe.json": json.dumps(RECIPE).encode(), "art.svg": SVG})
    drop(page, "moon coaster.zip", packed, "application/zip")
    page.wait_for_url(re.compile("/bench/"))
    expect(page.locator("[data-region]")).to_have_count(2)
    expect(page.get_by_role("textbox", name="Name of the piece")).to_have_value("Moon coaster")
    expect(page.get_by_role("complementary", name="Contents")).to_contain_text("Moon")


def test_a_recipe_without_its_art_says_which_file_is_missing(page):
    all_pieces(page)
    drop(page, "recipe.json", json.dumps(RECIPE).encode(), "application/json")
    expect(page.get_by_text("names the file art.svg").first).to_be_visible()
    expect(page).to_have_url(re.compile("/$"))
