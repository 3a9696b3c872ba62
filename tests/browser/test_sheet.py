"""Whole pieces by hand: nothing else moves, what is typed holds, several pictures lie on one sheet."""

from __future__ import annotations

import math
import re

import cv2
import numpy as np
import pytest
import shapely
from playwright.sync_api import Page, expect

from drelo.core.solid.mesh import Mesh
from drelo.formats.stl import read_stl
from tests.browser.hand import (
    begin,
    click,
    drag,
    drop,
    fill,
    ground,
    part,
    regions,
    saved,
    spot,
    stop,
    taken,
    tool,
)


def number(page: Page, label: str) -> float:
    return float(page.get_by_role("textbox", name=label, exact=True).input_value())


def plain(page: Page, name: str) -> None:
    page.goto("/")
    page.get_by_role("button", name="New empty piece").click()
    page.wait_for_url(re.compile("/bench/"))
    page.get_by_role("button", name=name).click()
    expect(page.get_by_role("complementary", name="Contents")).to_contain_text("Base")


def drawn_row(page: Page, name: str):
    drawn = page.get_by_role("complementary", name="Contents").get_by_role("group", name="Drawn")
    return drawn.get_by_role("button", name=re.compile(f"^{name}"))


def form(page: Page, kind: str, *corners: tuple[float, float]) -> None:
    part(page, "Draw")
    page.get_by_role("radio", name=kind, exact=True).click()
    tool(page, "Drag it out")
    drag(page, *(spot(page, *c) for c in corners))
    saved(page)


def test_a_leaf_is_sunk_into_a_block_off_its_middle(page):
    plain(page, "Plain block")
    stop(page, "Shape")
    page.get_by_label("Kind of line").get_by_role("radio", name="curve").click()
    tool(page, "Draw a line")
    for x, y in ((0.35, 0.5), (0.45, 0.36), (0.6, 0.38)):
        click(page, x, y)
        saved(page)
    # Left off, and gone on with from its end.
    page.keyboard.press("Escape")
    for x, y in ((0.6, 0.38), (0.68, 0.5), (0.6, 0.6), (0.45, 0.62), (0.35, 0.5)):
        click(page, x, y)
        saved(page)
    regions(page, 1)
    page.keyboard.press("Escape")
    part(page, "Place")
    click(page, 0.5, 0.5)
    fill(page, "Its width", "40")
    saved(page)
    page.get_by_role("button", name="Centre on the base").click()
    saved(page)
    fill(page, "Right of middle", "10")
    saved(page)
    assert (number(page, "x"), number(page, "Its width")) == (-10, 40)
    assert number(page, "y") == pytest.approx(-number(page, "Its height") / 2, abs=0.01)
    stop(page, "Raise")
    page.get_by_role("radio", name="Sunk").first.click()
    fill(page, "Depth", "2")
    saved(page)
    # The block is as large as it was, whatever was drawn on it.
    expect(page.get_by_role("contentinfo")).to_contain_text("80 × 60 × 6 mm")


def test_a_motif_is_fitted_into_the_rings_of_a_disc(page):
    plain(page, "Plain disc")
    stop(page, "Shape")
    form(page, "ring", (0.5, 0.5), (0.8, 0.8))
    fill(page, "Outer diameter", "92")
    fill(page, "Inner diameter", "90")
    part(page, "Place")
    page.get_by_role("button", name="Centre on the base").click()
    saved(page)
    form(page, "star", (0.55, 0.45), (0.65, 0.55))
    fill(page, "Points", "8")
    saved(page)
    part(page, "Place")
    drawn_row(page, "Ring").click(modifiers=["Shift"])
    fill(page, "Margin inside", "5")
    page.get_by_role("button", name="Fit into the largest").click()
    saved(page)
    drawn_row(page, "Star").click()
    assert number(page, "Its width") == pytest.approx(80, abs=0.01)
    assert number(page, "Right of middle") == pytest.approx(0, abs=0.001)
    assert number(page, "Below middle") == pytest.approx(0, abs=0.001)
    drawn_row(page, "Ring").click()
    assert number(page, "Its width") == pytest.approx(92)
    expect(page.get_by_role("contentinfo")).to_contain_text(re.compile("95 × 95 × "))


def shield() -> bytes:
    """A faint pencil shield on paper."""
    image = np.full((500, 420), 245, np.uint8)
    corners = np.array([[60, 60], [360, 60], [360, 260], [210, 450], [60, 260]], np.int32)
    cv2.polylines(image, [corners], True, 215, 3, cv2.LINE_AA)
    return cv2.imencode(".png", image)[1].tobytes()


def test_half_an_emblem_over_a_faint_picture_is_whole(page):
    begin(page, shield(), "shield.png")
    stop(page, "Shape")
    view = ground_size(page)
    page.keyboard.press("Control+a")
    page.keyboard.press("Delete")
    saved(page)
    tool(page, "Mirror line")
    click(page, 0.5, 0.1)
    click(page, 0.5, 0.9)
    expect(page.locator("[data-symmetry='mirror']")).to_be_attached()
    tool(page, "Draw a line")
    for x, y in ((0.5, 0.25), (0.3, 0.25), (0.3, 0.55), (0.5, 0.8)):
        click(page, x, y)
    page.keyboard.press("Escape")
    for x, y in ((0.4, 0.15), (0.4, 0.35)):
        click(page, x, y)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    saved(page)
    # What stands over the shield goes, on both sides; what stands in it stays.
    part(page, "Change")
    tool(page, "Trim")
    click(page, 0.4, 0.19)
    saved(page)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+a")
    fill(page, "Width", "2")
    page.get_by_role("button", name="Give the line its width").click()
    saved(page)
    stop(page, "Raise")
    page.get_by_label("Shape of the base").get_by_role("radio", name="None").click()
    fill(page, "Height", "2")
    saved(page)
    mesh = read_stl(taken(page))
    width, depth, height = mesh.size
    assert height == pytest.approx(2, abs=1e-5)
    # 0.4 of the view wide and 0.55 of it deep, and 2 mm more: what stood over the upper edge is gone.
    assert (width - 2) / (depth - 2) == pytest.approx(0.4 * view[0] / (0.55 * view[1]), rel=0.06)
    # Either half is the mirror image of the other.
    floor = floor_of(mesh)
    x0, _, x1, _ = floor.bounds
    other = shapely.transform(floor, lambda xy: xy * [-1, 1] + [x0 + x1, 0])
    assert shapely.symmetric_difference(floor, other).area < 1e-3 * floor.area


def ground_size(page: Page) -> tuple[float, float]:
    """Width and height of the flat view while a piece is shaped, px."""
    stop(page, "Shape")
    box = ground(page).bounding_box()
    assert box
    return box["width"], box["height"]


def badge(side: int) -> bytes:
    image = np.full((200, 200), 255, np.uint8)
    cv2.rectangle(image, (40, 40), (40 + side, 40 + side), 0, -1)
    return cv2.imencode(".png", image)[1].tobytes()


def test_two_pictures_lie_on_one_nameplate(page):
    begin(page, badge(100), "large.png")
    row = page.get_by_role("complementary", name="Contents")
    size = page.locator("[data-region]").first.get_attribute("d")
    drop(page, "small.png", badge(40))
    regions(page, 2)
    expect(row).to_contain_text("small.png")
    # The first one lies as it lay.
    assert size in [r.get_attribute("d") for r in page.locator("[data-region]").all()]
    stop(page, "Gather")
    fill(page, "Picture width", "30")
    fill(page, "Left", "100")
    saved(page)
    stop(page, "Raise")
    page.get_by_role("radiogroup", name="Form").get_by_role("radio", name="Nameplate").click()
    saved(page)
    mesh = read_stl(taken(page))
    assert int(mesh.shells().max()) + 1 == 1
    stop(page, "Gather")
    page.get_by_role("button", name="Hide small.png").click()
    regions(page, 1)
    page.keyboard.press("Control+z")
    regions(page, 2)


def test_a_saw_blade_has_a_hole_for_its_cord(page):
    plain(page, "Plain disc")
    page.get_by_role("button", name=re.compile("Units")).click()
    stop(page, "Shape")
    form(page, "star", (0.5, 0.5), (0.7, 0.7))
    fill(page, "Diameter of the points", "6")
    fill(page, "Diameter of the notches", "5.5")
    fill(page, "Points", "24")
    saved(page)
    part(page, "Place")
    page.get_by_role("button", name="Centre on the base").click()
    saved(page)
    # Three holes, moved apart by numbers.
    for right, below in (("0", "-1"), ("0.87", "0.5"), ("-0.87", "0.5")):
        form(page, "circle", (0.5, 0.5), (0.52, 0.52))
        fill(page, "Diameter", "0.75")
        part(page, "Place")
        fill(page, "Right of middle", right)
        fill(page, "Below middle", below)
        page.get_by_label("A hole through everything").click()
        saved(page)
    drawn_row(page, "Star").click()
    part(page, "Change")
    page.get_by_label("Loop or hole").get_by_role("radio", name="hole").click()
    fill(page, "Hole", "1/8")
    page.get_by_role("button", name="Where it hangs level").click()
    saved(page)
    stop(page, "Raise")
    page.get_by_label("Shape of the base").get_by_role("radio", name="Outline").click()
    fill(page, "Margin", "1/8")
    saved(page)
    mesh = read_stl(taken(page))
    floor = floor_of(mesh)
    holes = sorted(np.sqrt(4 * shapely.Polygon(r).area / math.pi) for r in floor.interiors)
    assert holes == pytest.approx([25.4 / 8, *[25.4 * 0.75] * 3], rel=0.01)
    # A needle goes straight through at the upper edge.
    cord = min((shapely.Polygon(r) for r in floor.interiors), key=lambda h: h.area).centroid
    assert cord.x == pytest.approx(floor.centroid.x, abs=0.1)
    assert cord.y > floor.centroid.y + 50


def floor_of(mesh: Mesh) -> shapely.Polygon:
    """What stands on the bed, mm."""
    corners = mesh.vertices[mesh.faces].astype(float)
    low = corners[(corners[:, :, 2] < 1e-6).all(axis=1)][:, :, :2]
    floor = shapely.union_all(shapely.polygons(low))
    assert isinstance(floor, shapely.Polygon)
    # Between triangles whose corners were rounded apart slivers are left.
    return shapely.Polygon(floor.exterior, [r for r in floor.interiors if shapely.Polygon(r).area > 0.01])
