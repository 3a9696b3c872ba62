"""Picture care in Gather: crop, flatten, rub out; each step can be taken back and the original stays."""

import cv2
import numpy as np
from playwright.sync_api import expect

from tests.browser.hand import at_rest, begin, saved, stop


def two_squares() -> bytes:
    rgb = np.full((200, 300, 3), 255, np.uint8)
    rgb[50:150, 30:130] = 0
    rgb[50:150, 190:270] = 0
    return cv2.imencode(".png", rgb)[1].tobytes()


def place(page, x: float, y: float) -> tuple[float, float]:
    """Where a share of the underlay lies on the screen."""
    box = page.locator("section[aria-label='Flat view'] image").bounding_box()
    return box["x"] + x * box["width"], box["y"] + y * box["height"]


def tool(page, name: str) -> None:
    page.get_by_role("button", name=name, exact=True).click()


def drag(page, start: tuple[float, float], end: tuple[float, float]) -> None:
    page.mouse.move(*place(page, *start))
    page.mouse.down()
    page.mouse.move(*place(page, *end), steps=5)
    page.mouse.up()


def test_a_crop_leaves_what_is_inside_and_can_be_taken_back(page):
    begin(page, two_squares())
    stop(page, "Gather")
    at_rest(page)
    regions = page.locator("[data-region]")
    expect(regions).to_have_count(2)
    tool(page, "Crop")
    drag(page, (0.02, 0.02), (0.52, 0.98))
    saved(page)
    expect(regions).to_have_count(1)
    steps = page.get_by_role("list", name="Steps of picture care")
    expect(steps).to_contain_text("Cropped")
    page.reload()
    stop(page, "Gather")
    expect(regions).to_have_count(1)
    steps.get_by_role("button", name="Remove step 1, cropped").click()
    expect(regions).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(regions).to_have_count(1)


def test_marks_are_rubbed_out(page):
    rgb = np.full((200, 300, 3), 255, np.uint8)
    rgb[30:170, 60:240] = 0
    rgb[95:101, 120:180] = 255
    begin(page, cv2.imencode(".png", rgb)[1].tobytes())
    stop(page, "Gather")
    at_rest(page)
    before = page.locator("[data-region]").first.get_attribute("d")
    tool(page, "Rub out")
    drag(page, (0.3, 0.49), (0.7, 0.49))
    saved(page)
    expect(page.locator("[data-region]").first).not_to_have_attribute("d", before)
    expect(page.get_by_role("list", name="Steps of picture care")).to_contain_text("Rubbed out")
    page.keyboard.press("Escape")
    expect(page.locator("[data-care]")).to_have_count(0)


def test_four_corners_flatten_a_sheet(page):
    begin(page, two_squares())
    stop(page, "Gather")
    at_rest(page)
    tool(page, "Flatten")
    for corner in ((0.05, 0.2), (0.47, 0.15), (0.47, 0.85), (0.05, 0.8)):
        page.mouse.click(*place(page, *corner))
    saved(page)
    expect(page.get_by_role("list", name="Steps of picture care")).to_contain_text("Flattened")
    expect(page.locator("[data-region]")).to_have_count(1)
