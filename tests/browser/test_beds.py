"""Beds: pieces are picked, packed, moved by hand and by keys, and each bed leaves as it is placed."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from drelo.formats.threemf import read_3mf
from tests.browser.hand import begin, saved, tick, told
from tests.browser.test_raise import two_bars


@pytest.fixture
def plan(page):
    """A plan of two pieces, just made from the list."""
    begin(page, two_bars(), "bars.png")
    saved(page)
    page.get_by_role("link", name="All pieces").click()
    picks = page.get_by_role("checkbox", name=re.compile("^Pick Bars"))
    # What is stored, for the page shows the list that it has until the new one is there.
    known = sum(p["name"].startswith("Bars") for p in page.request.get("/api/pieces").json()["pieces"])
    expect(picks).to_have_count(known)
    page.get_by_role("button", name="Duplicate Bars").first.click()
    expect(picks).to_have_count(known + 1)
    tick(page, "Bars, copy")
    tick(page, "Bars")
    expect(page.get_by_text("2 pieces picked")).to_be_visible()
    page.get_by_role("button", name="Put on a bed").click()
    expect(page.get_by_text("everything fits")).to_be_visible()
    return page


def copies(page):
    return page.get_by_role("group", name=re.compile("^Bed ")).get_by_role("button")


def test_pieces_are_packed_moved_pinned_and_taken_as_a_bed(plan):
    expect(copies(plan)).to_have_count(2)
    field = plan.get_by_role("list", name="Pieces on the beds").get_by_role("textbox", name="Copies").first
    field.fill("3")
    field.press("Enter")
    expect(copies(plan)).to_have_count(4)
    expect(plan.get_by_text("everything fits")).to_be_visible()
    first = copies(plan).first
    first.focus()
    before = float(plan.get_by_role("textbox", name="From the left").input_value())
    first.press("ArrowLeft")
    expect(plan.get_by_role("textbox", name="From the left")).to_have_value(re.compile(f"^{before - 1:.0f}"))
    expect(plan.get_by_role("switch", name="Pinned")).to_be_checked()
    # Dragged onto its neighbour it has no room, and says so.
    box, other = (copies(plan).nth(i).bounding_box() for i in (0, 1))
    assert box
    assert other
    plan.mouse.move(box["x"] + 6, box["y"] + box["height"] / 2)
    plan.mouse.down()
    plan.mouse.move(other["x"] + 12, other["y"] + other["height"] / 2, steps=4)
    plan.mouse.up()
    expect(plan.get_by_text("copies do not fit")).to_be_visible()
    expect(plan.get_by_role("button", name="Export this bed as 3MF")).to_be_disabled()
    # The one that was moved stays, the others are packed round it.
    place = plan.get_by_role("textbox", name="From the left").input_value()
    plan.get_by_role("button", name="Pack again").click()
    expect(plan.get_by_text("everything fits")).to_be_visible()
    expect(plan.get_by_role("textbox", name="From the left")).to_have_value(place)
    expect(plan.get_by_role("heading", name="The print")).to_be_visible()
    with plan.expect_download() as coming:
        plan.get_by_role("button", name="Export this bed as 3MF").click()
    bodies = read_3mf(coming.value.path().read_bytes())
    assert len({body.thing for body in bodies}) == 4
    points = np.vstack([body.mesh.vertices for body in bodies])
    assert points.min() > -1e-3
    assert points[:, :2].max() < 220
    plan.reload()
    expect(copies(plan)).to_have_count(4)
    expect(plan.get_by_role("button", name=re.compile("pinned"))).to_have_count(1)


def test_keys_turn_pin_and_move_to_another_bed(plan):
    first = copies(plan).first
    first.focus()
    first.press("r")
    expect(plan.get_by_role("textbox", name="Turned")).to_have_value(re.compile(r"^(15|60|105|150|195|240|285|330)"))
    first.press("p")
    expect(plan.get_by_role("switch", name="Pinned")).not_to_be_checked()
    plan.get_by_label("On which bed").select_option("1")
    expect(copies(plan)).to_have_count(1)
    expect(plan.get_by_role("radio", name="bed 2")).to_be_checked()
    plan.get_by_role("link", name="All beds").click()
    expect(plan.get_by_text("2 pieces, 2 copies on 2 beds")).to_be_visible()
    plan.get_by_role("button", name=re.compile("^Delete")).first.click()
    told(plan, "Its pieces stay.")
    plan.get_by_role("button", name="Undo", exact=True).click()
    expect(plan.get_by_text("2 pieces, 2 copies on 2 beds")).to_be_visible()
