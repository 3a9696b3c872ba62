"""A shared workshop on the page: signing in, inviting, sharing, looking, and one's own account."""

from __future__ import annotations

import re
import threading
from collections.abc import Callable, Iterator

import pyotp
import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect
from sqlalchemy import Engine, text

from drelo.application.bench import Bench
from drelo.application.people import new_keeper
from drelo.store.database import sessions
from drelo.web.app import create_app
from drelo.web.listening import listening
from drelo.web.people.workshop import Workshop
from tests.browser.hand import begin, saved, stop, told
from tests.browser.test_accessibility import faults_by_day_and_night
from tests.browser.test_raise import two_bars

PASSWORD = "beetroot lantern quartz"


@pytest.fixture(scope="module")
def shared_address(bench: Bench) -> Iterator[str]:
    server = listening(create_app(bench, shared=Workshop(b"secret of the tests", guesses=False)), 0, shared=True)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.effective_port}"
    server.close()


@pytest.fixture
def keeper(bench: Bench, engine: Engine) -> Iterator[None]:
    """One keeper and nobody else; afterwards nobody, as other tests have it."""

    def nobody() -> None:
        with sessions(engine).begin() as session:
            for table in ("share", "sign_in", "invitation", "happening", "account"):
                session.execute(text(f"delete from {table}"))
            session.execute(text("update piece set owner = null, openness = 'private'"))

    nobody()
    new_keeper(bench.accounts, "kay", "Kay", PASSWORD)
    yield
    nobody()


@pytest.fixture
def page_of(browser: Browser, shared_address: str, keeper: None) -> Iterator[Callable[[], Page]]:
    """Makes pages of browsers that nobody is signed in with."""
    contexts: list[BrowserContext] = []

    def fresh() -> Page:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=shared_address)
        context.set_default_timeout(30_000)
        contexts.append(context)
        return context.new_page()

    yield fresh
    for context in contexts:
        context.close()


def sign_in(page: Page, name: str, password: str = PASSWORD) -> None:
    page.goto("/")
    page.get_by_role("textbox", name="Name").fill(name)
    page.get_by_role("textbox", name="Password").fill(password)
    page.keyboard.press("Enter")


def joined(keeper: Page, page: Page, name: str, role: str = "maker") -> Page:
    """Somebody who came by an invitation."""
    keeper.goto("/people")
    keeper.get_by_role("textbox", name="Whom it is for").fill(name.capitalize())
    keeper.get_by_role("combobox", name="As what").select_option(role)
    keeper.get_by_role("button", name="Make a link").click()
    page.goto(keeper.get_by_role("status").locator("code").inner_text())
    expect(page.get_by_role("textbox", name="What others see")).to_have_value(name.capitalize())
    page.get_by_role("textbox", name="Name to sign in with").fill(name)
    page.get_by_role("textbox", name="Password").fill(PASSWORD)
    page.get_by_role("button", name="Create account").click()
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()
    return page


def test_nobody_comes_in_without_a_name_and_a_password(page_of: Callable[[], Page]) -> None:
    page = page_of()
    page.goto("/storage")
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    assert faults_by_day_and_night(page) == []
    page.get_by_role("textbox", name="Name").fill("kay")
    page.get_by_role("textbox", name="Password").fill("wrong")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Check your name, your password")
    sign_in(page, "kay")
    expect(page.get_by_role("heading", name="Pieces")).to_be_visible()
    page.reload()
    expect(page.get_by_role("link", name="Kay")).to_be_visible()
    page.get_by_role("link", name="Kay").click()
    assert faults_by_day_and_night(page) == []
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()


def test_a_piece_is_shared_looked_at_and_given_back(page_of: Callable[[], Page]) -> None:
    keeper = page_of()
    sign_in(keeper, "kay")
    expect(keeper.get_by_role("heading", name="Pieces")).to_be_visible()
    mira, gus = joined(keeper, page_of(), "mira"), joined(keeper, page_of(), "gus", "guest")
    expect(gus.get_by_role("button", name="Start with a file")).to_have_count(0)
    begin(mira, two_bars(), "bars of mira.png")
    mira.goto("/")
    gus.reload()
    expect(gus.get_by_role("heading", name="Pieces")).to_be_visible()
    expect(gus.get_by_role("link", name="Open Bars of mira")).to_have_count(0)
    mira.get_by_role("button", name="Share Bars of mira").click()
    mira.get_by_role("combobox", name="What Gus may do").select_option("look")
    expect(mira.get_by_role("combobox", name="What Gus may do")).to_have_value("look")
    assert faults_by_day_and_night(mira) == []
    gus.reload()
    expect(gus.get_by_text("Mira’s, to look at")).to_be_visible()
    gus.get_by_role("link", name="Open Bars of mira").click()
    stop(gus, "Raise")
    expect(gus.get_by_text("to look at", exact=True)).to_be_visible()
    field = gus.get_by_role("textbox", name="Thickness").first
    field.fill("5")
    field.press("Enter")
    expect(gus.get_by_text("is shown to you to look at").first).to_be_visible()
    expect(field).to_have_value("2")
    # It leaves as a file all the same.
    gus.get_by_role("button", name="Export").click()
    with gus.expect_download():
        gus.get_by_role("button", name="Export 3MF").click()


def test_who_edits_with_others_is_named_and_the_record_tells_what_was_done(page_of: Callable[[], Page]) -> None:
    keeper = page_of()
    sign_in(keeper, "kay")
    expect(keeper.get_by_role("heading", name="Pieces")).to_be_visible()
    mira, milo = joined(keeper, page_of(), "mira"), joined(keeper, page_of(), "milo")
    begin(mira, two_bars(), "garden bars.png")
    mira.goto("/")
    mira.get_by_role("button", name="Share Garden bars").click()
    mira.get_by_role("radio", name="Everybody, to edit").click()
    expect(mira.get_by_role("radio", name="Everybody, to edit")).to_be_checked()
    milo.reload()
    milo.get_by_role("link", name="Open Garden bars").click()
    stop(milo, "Raise")
    field = milo.get_by_role("textbox", name="Thickness").first
    field.fill("5")
    field.press("Enter")
    saved(milo)
    keeper.goto("/people")
    record = keeper.get_by_role("region", name="Record")
    expect(record.get_by_role("row", name=re.compile("Mira opened a piece, Garden bars: edited"))).to_be_visible()
    expect(record.get_by_role("row", name=re.compile("Milo joined, as maker"))).to_be_visible()
    assert faults_by_day_and_night(keeper) == []
    keeper.get_by_role("listitem").filter(has_text="Milo").get_by_role("button", name="Shut out").click()
    expect(record.get_by_role("row", name=re.compile("Kay shut out, Milo"))).to_be_visible()
    milo.reload()
    expect(milo.get_by_role("heading", name="Sign in")).to_be_visible()


def test_a_second_factor_is_set_up_and_asked_for(page_of: Callable[[], Page]) -> None:
    page = page_of()
    sign_in(page, "kay")
    page.get_by_role("link", name="Kay").click()
    page.get_by_role("textbox", name="Your password, to be sure").fill(PASSWORD)
    page.get_by_role("button", name="Set it up").click()
    secret = page.get_by_role("region", name="Second factor").locator("code").inner_text()
    page.get_by_role("textbox", name="Code that the app shows").fill(pyotp.TOTP(secret).now())
    page.get_by_role("button", name="Turn it on").click()
    codes = page.get_by_role("list", name="Spare codes").get_by_role("listitem")
    expect(codes).to_have_count(8)
    spare = codes.first.inner_text()
    other = page_of()
    sign_in(other, "kay")
    other.get_by_role("textbox", name="Code").fill(spare)
    other.keyboard.press("Enter")
    expect(other.get_by_role("heading", name="Pieces")).to_be_visible()
    # Where one is signed in is seen and ended.
    page.reload()
    page.get_by_role("button", name="Sign all others out").click()
    expect(page.get_by_role("button", name="Sign all others out")).to_have_count(0)
    other.reload()
    expect(other.get_by_role("heading", name="Sign in")).to_be_visible()


def test_a_forgotten_password_is_set_by_a_link(page_of: Callable[[], Page]) -> None:
    keeper = page_of()
    sign_in(keeper, "kay")
    expect(keeper.get_by_role("heading", name="Pieces")).to_be_visible()
    mira = joined(keeper, page_of(), "mira")
    keeper.reload()
    keeper.get_by_role("listitem").filter(has_text="Mira").get_by_role("button", name="New password").click()
    link = keeper.get_by_role("status").locator("code").inner_text()
    fresh = page_of()
    fresh.goto(link)
    expect(fresh.get_by_text("For Mira, who signs in as mira.")).to_be_visible()
    fresh.get_by_role("textbox", name="Password").fill("short")
    fresh.get_by_role("button", name="Set password").click()
    expect(fresh.get_by_text("A password has 12 to 128 characters")).to_be_visible()
    fresh.get_by_role("textbox", name="Password").fill("quartz lantern beetroot")
    fresh.get_by_role("button", name="Set password").click()
    expect(fresh.get_by_role("heading", name="Pieces")).to_be_visible()
    mira.reload()
    expect(mira.get_by_role("heading", name="Sign in")).to_be_visible()


def test_two_people_on_one_piece_see_each_other_and_each_others_changes(page_of: Callable[[], Page]) -> None:
    keeper = page_of()
    sign_in(keeper, "kay")
    expect(keeper.get_by_role("heading", name="Pieces")).to_be_visible()
    mira, milo = joined(keeper, page_of(), "mira"), joined(keeper, page_of(), "milo")
    begin(mira, two_bars(), "shared bars.png")
    url = mira.url
    mira.goto("/")
    mira.get_by_role("button", name="Share Shared bars").click()
    mira.get_by_role("radio", name="Everybody, to edit").click()
    expect(mira.get_by_role("radio", name="Everybody, to edit")).to_be_checked()
    mira.goto(url)
    milo.goto(url)
    for page, other in ((mira, "Milo"), (milo, "Mira")):
        stop(page, "Raise")
        expect(page.get_by_text(f"Also here: {other}")).to_be_attached()
    field = mira.get_by_role("textbox", name="Thickness").first
    field.fill("5")
    field.press("Enter")
    saved(mira)
    told(milo, "Mira has changed this piece")
    expect(milo.get_by_role("textbox", name="Thickness").first).to_have_value("5")


def test_a_keeper_sets_limits_and_who_is_at_them_is_told(page_of: Callable[[], Page]) -> None:
    keeper = page_of()
    sign_in(keeper, "kay")
    expect(keeper.get_by_role("heading", name="Pieces")).to_be_visible()
    mira = joined(keeper, page_of(), "mira")
    begin(mira, two_bars(), "first.png")
    keeper.goto("/people")
    keeper.get_by_role("button", name="Limits of Mira").click()
    field = keeper.get_by_role("dialog").get_by_role("textbox", name="Pieces")
    field.fill("1")
    field.press("Enter")
    assert faults_by_day_and_night(keeper) == []
    keeper.keyboard.press("Escape")
    expect(keeper.get_by_role("region", name="At work").get_by_text("This machine")).to_be_visible()
    row = keeper.get_by_role("listitem").filter(has_text="Mira")
    expect(row.get_by_text("Used up: pieces")).to_be_visible()
    assert faults_by_day_and_night(keeper) == []
    mira.goto("/account")
    expect(mira.get_by_text("You have room for 1 piece")).to_be_visible()
    mira.goto("/")
    mira.get_by_role("button", name="New empty piece").click()
    told(mira, "You have room for 1 piece in this workshop, and it is used up.")


def test_who_has_a_link_looks_without_signing_in(page_of: Callable[[], Page]) -> None:
    keeper = page_of()
    sign_in(keeper, "kay")
    expect(keeper.get_by_role("heading", name="Pieces")).to_be_visible()
    begin(keeper, two_bars(), "two bars.png")
    keeper.goto("/")
    keeper.get_by_role("button", name="Share Two bars").click()
    keeper.get_by_role("button", name="Make a link").click()
    link = keeper.get_by_role("textbox", name="Link to the piece").input_value()
    visitor = page_of()
    visitor.goto(link)
    expect(visitor.get_by_role("heading", name="Two bars")).to_be_visible()
    expect(visitor.get_by_role("img", name="Two bars, 2 regions")).to_be_visible()
    assert faults_by_day_and_night(visitor) == []
    visitor.get_by_role("radio", name="Solid").click()
    expect(visitor.get_by_role("img", name="The solid of Two bars")).to_be_visible()
    assert faults_by_day_and_night(visitor) == []
    keeper.get_by_role("button", name="End the link").click()
    expect(keeper.get_by_role("button", name="Make a link")).to_be_visible()
    visitor.reload()
    expect(visitor.get_by_text("This link does not show a piece any more.")).to_be_visible()
    visitor.goto("/")
    expect(visitor.get_by_role("heading", name="Sign in")).to_be_visible()


def test_who_changes_the_same_sees_both_and_says_whose_is_to_stand(page_of: Callable[[], Page]) -> None:
    keeper = page_of()
    sign_in(keeper, "kay")
    expect(keeper.get_by_role("heading", name="Pieces")).to_be_visible()
    mira, milo = joined(keeper, page_of(), "mira"), joined(keeper, page_of(), "milo")
    begin(mira, two_bars(), "met bars.png")
    url = mira.url
    mira.goto("/")
    mira.get_by_role("button", name="Share Met bars").click()
    mira.get_by_role("radio", name="Everybody, to edit").click()
    expect(mira.get_by_role("radio", name="Everybody, to edit")).to_be_checked()
    mira.goto(url)
    # Milo hears nothing of what Mira makes.
    milo.route("**/events", lambda route: route.abort())
    milo.route("**/here", lambda route: route.abort())
    milo.goto(url)
    for page in (mira, milo):
        stop(page, "Raise")

    def meet(theirs: str, mine: str) -> None:
        for page, value in ((mira, theirs), (milo, mine)):
            field = page.get_by_role("textbox", name="Thickness").first
            field.fill(value)
            field.press("Enter")
            if page is mira:
                saved(page)

    thickness = milo.get_by_role("textbox", name="Thickness").first
    meet("5", "6")
    dialog = milo.get_by_role("dialog", name="Both of you changed the same")
    expect(dialog.get_by_role("region", name="Mira")).to_contain_text("5")
    expect(dialog.get_by_role("region", name="You")).to_contain_text("6")
    expect(dialog.get_by_role("img", name="As it stands")).to_be_visible()
    expect(dialog.get_by_role("img", name="With your change")).to_be_visible()
    assert faults_by_day_and_night(milo) == []
    milo.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    expect(thickness).to_have_value("5")
    meet("7", "8")
    dialog.get_by_role("button", name="Use mine").click()
    expect(dialog).to_have_count(0)
    expect(thickness).to_have_value("8")
    saved(milo)
    expect(mira.get_by_role("textbox", name="Thickness").first).to_have_value("8")
