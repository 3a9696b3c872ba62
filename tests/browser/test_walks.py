"""Walks: each thing that a stranger comes to make, from nothing to its file, with the clicks that it takes.

docs/walks.md tells them in words; `WALKED=1` prints the counts.
"""

from __future__ import annotations

import os
import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Locator, Page, expect

from drelo.core.solid.mesh import Mesh
from drelo.core.solid.seal import check_seal
from drelo.formats.dxf_in import read_dxf
from drelo.formats.stl import read_stl
from drelo.formats.svg_in import read_svg
from tests.browser import hand, pictures
from tests.browser.hand import spot


class Hand:
    """A maker's hand that counts: a click, a drag, a key, a field typed into are one each."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.count = 0

    def begins(self, data: bytes, name: str) -> None:
        """Drops a picture on the opening page."""
        self.count += 1
        hand.begin(self.page, data, name)

    def begins_empty(self) -> None:
        self.page.goto("/")
        self.press("New empty piece")
        self.page.wait_for_url(re.compile("/bench/"))
        self.stop("Shape")
        expect(self.page.locator("[data-ground]")).to_be_visible()

    def on(self, target: Locator) -> None:
        target.click()
        self.count += 1

    def press(self, name: str | re.Pattern[str]) -> None:
        self.on(self.page.get_by_role("button", name=name, exact=True).first)

    def choose(self, name: str, group: str | None = None) -> None:
        scope = self.page.get_by_label(group, exact=True) if group else self.page
        self.on(scope.get_by_role("radio", name=name, exact=True).first)

    def stop(self, name: str) -> None:
        self.on(self.page.get_by_role("navigation", name="Stops").get_by_role("button", name=name))

    def part(self, name: str) -> None:
        self.on(self.page.get_by_label("Part of shaping").get_by_role("radio", name=name, exact=True))

    def types(self, label: str, text: str) -> None:
        hand.fill(self.page, label, text)
        self.count += 1
        hand.saved(self.page)

    def clicks(self, x: float, y: float, **more: object) -> None:
        hand.click(self.page, x, y, **more)
        self.count += 1

    def drags(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        hand.drag(self.page, spot(self.page, *start), spot(self.page, *end))
        self.count += 1

    def key(self, name: str) -> None:
        self.page.keyboard.press(name)
        self.count += 1

    def rests(self) -> None:
        hand.saved(self.page)

    def exports(self, kind: str) -> bytes:
        self.on(self.page.get_by_role("banner").get_by_role("button", name="Export"))
        panel = self.page.get_by_role("region", name="Export").last
        self.on(panel.get_by_role("radio", name=kind, exact=True))
        with self.page.expect_download() as coming:
            self.on(panel.get_by_role("button", name=f"Export {kind}", exact=True))
        return coming.value.path().read_bytes()

    def prints(self) -> Mesh:
        mesh = read_stl(self.exports("STL"))
        assert check_seal(mesh).sealed
        return mesh


@pytest.fixture
def maker(page: Page, request: pytest.FixtureRequest) -> Iterator[Hand]:
    maker = Hand(page)
    yield maker
    if os.environ.get("WALKED"):
        print(f"\n{request.node.name}: {maker.count}")
        folder = os.environ["WALKED"]
        if os.path.isdir(folder):
            page.keyboard.press("Escape")
            page.wait_for_timeout(1200)
            page.screenshot(path=f"{folder}/{request.node.name}.png")


def parts_of(mesh: Mesh) -> int:
    return int(mesh.shells().max()) + 1


def picked(page: Page) -> Locator:
    return page.get_by_role("contentinfo")


def drawn(page: Page, name: str) -> Locator:
    contents = page.get_by_role("complementary", name="Contents")
    return contents.get_by_role("group", name="Drawn").get_by_role("button", name=re.compile(f"^{name}")).first


def test_a_tag_in_joined_script_with_a_border_a_loop_and_a_tie(maker: Hand, page: Page) -> None:
    maker.begins_empty()
    maker.press("Set words")
    maker.clicks(0.5, 0.5)
    page.keyboard.type("Bean Row")
    page.get_by_role("textbox", name="Text").blur()
    maker.rests()
    maker.part("Change")
    # The two words are apart: one tie, and a border round it all.
    maker.press("Propose ties")
    maker.rests()
    maker.key("Control+a")
    maker.press("Make the border")
    maker.rests()
    maker.press("Where it hangs level")
    maker.rests()
    mesh = maker.prints()
    assert parts_of(mesh) == 1
    assert maker.count <= 14


def test_a_block_with_a_leaf_cut_in(maker: Hand, page: Page) -> None:
    page.goto("/")
    maker.press("New empty piece")
    page.wait_for_url(re.compile("/bench/"))
    maker.press("Plain block")
    maker.stop("Shape")
    maker.press("Search the cabinet")
    page.get_by_role("searchbox", name="Search the cabinet").fill("leaf")
    maker.on(page.get_by_role("button", name="Use Leaf", exact=True).last)
    maker.rests()
    maker.part("Place")
    maker.press("Fit into the base")
    maker.rests()
    maker.stop("Raise")
    maker.choose("Sunk")
    maker.rests()
    mesh = maker.prints()
    assert mesh.size == pytest.approx((80, 60, 6), abs=0.01)
    assert mesh.volume < 80 * 60 * 6 - 100


def test_one_word_out_of_a_busy_picture_kept_as_a_motif(maker: Hand, page: Page) -> None:
    maker.begins(pictures.busy_sign(), "sign.png")
    maker.stop("Shape")
    # A box that only takes what lies wholly inside it.
    page.keyboard.down("Alt")
    maker.drags((0.2, 0.35), (0.85, 0.62))
    page.keyboard.up("Alt")
    expect(picked(page)).to_contain_text("5 picked")
    page.get_by_role("textbox", name="Name of the motif").fill("Beans")
    maker.count += 1
    maker.press("Keep the pick")
    expect(page.get_by_role("button", name="Place Beans", exact=True)).to_be_visible()
    page.get_by_role("button", name="Remove Beans").click()


def test_a_coaster(maker: Hand, page: Page) -> None:
    maker.begins(pictures.logo(), "mark.png")
    maker.stop("Raise")
    maker.choose("Circle", "Shape of the base")
    maker.choose("Exact size", "Size of the base")
    maker.types("Diameter of the base", "90")
    mesh = maker.prints()
    assert mesh.size[:2] == pytest.approx((90, 90), abs=0.02)
    assert maker.count <= 8


def test_a_saw_blade_with_a_cord_hole(maker: Hand, page: Page) -> None:
    maker.begins(pictures.saw_blade(), "blade.png")
    maker.stop("Shape")
    maker.part("Change")
    maker.choose("hole", "Loop or hole")
    maker.types("Hole", "3")
    maker.press("Where it hangs level")
    maker.rests()
    mesh = maker.prints()
    assert parts_of(mesh) == 1
    assert maker.count <= 9


def test_an_emblem_by_half(maker: Hand, page: Page) -> None:
    maker.begins_empty()
    maker.press("Mirror line")
    maker.clicks(0.5, 0.1)
    maker.clicks(0.5, 0.9)
    maker.press("Draw a line")
    for x, y in ((0.5, 0.2), (0.3, 0.2), (0.3, 0.5), (0.5, 0.8)):
        maker.clicks(x, y)
    maker.key("Escape")
    maker.rests()
    hand.regions(page, 1)
    # Closed by its mirror image, it is no open line.
    maker.part("Check")
    expect(page.get_by_text("Every outline is one closed path.")).to_be_visible()
    maker.prints()


def test_a_cutter_in_inches(maker: Hand, page: Page) -> None:
    maker.begins(pictures.fish(), "fish.jpg")
    maker.on(page.get_by_role("button", name=re.compile("^Units")))
    maker.rests()
    maker.stop("Shape")
    maker.part("Place")
    maker.types("Width", "3")
    maker.stop("Raise")
    maker.choose("Cutter")
    maker.rests()
    maker.press("Deep grip")
    maker.rests()
    expect(page.get_by_role("region", name="Remarks")).not_to_contain_text(" mm")
    mesh = maker.prints()
    assert mesh.size[2] == pytest.approx(18, abs=0.01)
    assert mesh.size[0] > 76.2


def test_a_stamp_from_exact_geometry(maker: Hand, page: Page) -> None:
    maker.begins_empty()
    maker.choose("polygon")
    maker.press("Put it on the sheet")
    maker.types("Diameter round it", "30")
    maker.choose("ring")
    maker.press("Put it round the pick")
    maker.types("Outer diameter", "34")
    maker.types("Inner diameter", "38")
    maker.stop("Raise")
    maker.choose("Stamp")
    maker.rests()
    mesh = maker.prints()
    assert parts_of(mesh) == 1
    # The ring and the margin round it.
    assert mesh.size[0] == pytest.approx(38 + 6, abs=0.05)


def test_a_face_area_by_area(maker: Hand, page: Page) -> None:
    maker.begins(pictures.face(), "face.png")
    # The light mouth is lost at the level that suits the hair; an area of its own takes it.
    maker.press("Box")
    underlay = page.locator("image[data-underlay]").bounding_box()
    assert underlay
    x, y, w, h = (underlay[k] for k in ("x", "y", "width", "height"))
    for top, low in ((0.05, 0.62), (0.62, 0.84)):
        if top > 0.1:
            maker.press("Box")
        hand.drag(page, (x + 0.1 * w, y + top * h), (x + 0.9 * w, y + low * h))
        maker.count += 1
        maker.rests()
    maker.types("Level", "75")
    contents = page.get_by_role("complementary", name="Contents")
    for area in ("Area 1", "Area 2"):
        expect(contents.get_by_role("group", name=area).get_by_role("listitem").first).to_be_visible()


def test_a_floor_plan_with_words(maker: Hand, page: Page) -> None:
    maker.begins(pictures.floor_plan(), "plan.png")
    maker.stop("Shape")
    maker.press("Set words")
    maker.clicks(0.7, 0.5)
    page.keyboard.type("Store")
    page.get_by_role("textbox", name="Text").blur()
    maker.rests()
    expect(drawn(page, "“Store”")).to_be_visible()
    maker.prints()


def test_a_logo_redrawn_over_a_faint_picture_left_off_and_resumed(maker: Hand, page: Page) -> None:
    maker.begins(pictures.faint_logo(), "faint.png")
    maker.stop("Shape")
    maker.key("Control+a")
    maker.key("Delete")
    maker.rests()
    maker.press("More contrast for a faint picture")
    maker.press("Draw a line")
    for x, y in ((0.8, 0.5), (0.65, 0.8), (0.35, 0.8)):
        maker.clicks(x, y)
    maker.key("Escape")
    maker.rests()
    page.reload()
    # It opens where it was left, with the picture as strong as it was.
    expect(page.get_by_role("button", name="More contrast for a faint picture")).to_have_attribute(
        "aria-pressed", "true"
    )
    maker.press("Draw a line")
    for x, y in ((0.35, 0.8), (0.2, 0.5), (0.35, 0.2), (0.65, 0.2), (0.8, 0.5)):
        maker.clicks(x, y)
    maker.rests()
    hand.regions(page, 1)
    maker.prints()


def test_a_bird_by_curves(maker: Hand, page: Page) -> None:
    maker.begins_empty()
    maker.choose("curve", "Kind of line")
    maker.press("Draw a line")
    for x, y in ((0.2, 0.45), (0.35, 0.3), (0.55, 0.35), (0.85, 0.25), (0.7, 0.6), (0.4, 0.7), (0.2, 0.45)):
        maker.clicks(x, y)
    maker.rests()
    hand.regions(page, 1)
    maker.prints()


def test_a_poster_with_one_word_set_anew(maker: Hand, page: Page) -> None:
    maker.begins(pictures.poster(), "poster.png")
    maker.stop("Shape")
    traced = page.locator("[data-region]").count()
    page.keyboard.down("Alt")
    maker.drags((0.2, 0.75), (0.8, 0.99))
    page.keyboard.up("Alt")
    maker.key("Delete")
    maker.rests()
    maker.press("Set words")
    maker.clicks(0.5, 0.87)
    page.keyboard.type("Feast")
    page.get_by_role("textbox", name="Text").blur()
    maker.rests()
    assert page.locator("[data-region]").count() < traced + 6
    expect(drawn(page, "“Feast”")).to_be_visible()
    maker.prints()


def test_a_messy_fish_with_bubbles_and_a_border(maker: Hand, page: Page) -> None:
    maker.begins(pictures.fish(), "fish.jpg")
    maker.types("Specks", "400")
    hand.regions(page, 4)
    maker.stop("Shape")
    maker.key("Control+a")
    maker.part("Change")
    expect(page.locator("[data-joining]")).to_be_visible()
    maker.press("Grow just enough")
    maker.rests()
    mesh = maker.prints()
    assert parts_of(mesh) == 1


def test_a_logo_to_dxf(maker: Hand, page: Page) -> None:
    maker.begins(pictures.logo(), "mark.png")
    data = maker.exports("DXF")
    assert all(line.contour.closed for line in read_dxf(data).lines)
    assert maker.count <= 4


def test_a_pasted_grab_to_svg(maker: Hand, page: Page) -> None:
    page.goto("/")
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()
    hand.paste(page, "grab.png", pictures.logo())
    maker.count += 1
    page.wait_for_url(re.compile("/bench/"))
    expect(page.locator("[data-region]").first).to_be_visible()
    art = read_svg(maker.exports("SVG"))
    assert len(art.shapes) == 2
    assert maker.count <= 4


def test_a_scan_with_an_own_palette_and_an_ellipse(maker: Hand, page: Page) -> None:
    maker.begins(pictures.coloured_scan(), "badge.jpg")
    maker.choose("Colours", "Trace as")
    maker.rests()
    maker.types("How many", "4")
    maker.stop("Shape")
    maker.choose("ellipse")
    maker.press("Put it round everything")
    maker.rests()
    maker.press("From the picture")
    maker.clicks(0.5, 0.25)
    maker.rests()
    maker.prints()


def test_strays_dropped_and_the_rest_stays_as_large_as_it_was(maker: Hand, page: Page) -> None:
    maker.begins(pictures.strays(), "strays.png")
    maker.stop("Shape")
    maker.part("Place")
    before = page.locator("[data-region]").count()
    assert before > 20
    page.keyboard.press("Escape")
    box = page.locator("[data-region]").first.bounding_box()
    maker.types("Smaller than", "20")
    maker.on(page.get_by_role("button", name=re.compile("^Drop the")))
    maker.rests()
    hand.regions(page, 1)
    after = page.locator("[data-region]").first.bounding_box()
    assert box
    assert after
    assert (after["width"], after["x"]) == pytest.approx((box["width"], box["x"]), abs=1) or box["width"] < 40


def test_a_plane_made_taller_wider_and_turned(maker: Hand, page: Page) -> None:
    maker.begins(pictures.plane(), "plane.png")
    maker.stop("Shape")
    maker.key("Control+a")
    maker.part("Place")
    maker.on(page.get_by_label("Keep proportions"))
    maker.types("Its height", "70")
    maker.types("Its width", "90")
    maker.types("Turn by", "90")
    mesh = maker.prints()
    assert mesh.size[:2] == pytest.approx((70 + 6, 90 + 6), abs=0.3)
