"""Fills and Feel on a real song: found, moved, taken back, stuck otherwise, listed, heard."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.helpers import choose
from tests.browser.test_slice import (  # noqa: F401
    _wait_for_sound,
    sign_up,
    song_page,
)

pytestmark = pytest.mark.browser


def open_fills(page):
    page.keyboard.press("Alt+5")
    expect(page.get_by_role("heading", name="Fills", exact=True)).to_be_visible()


def add_one(page):
    """A fill in the bar of the cursor, whatever was found in this recording."""
    empty = page.get_by_role("button", name=re.compile("A fill in bar"))
    options = page.get_by_role("option")
    expect(empty.or_(options.first)).to_be_visible()
    if empty.is_visible():
        empty.click()
    expect(options.first).to_be_visible()


def test_a_fill_is_moved_by_key_taken_back_and_called_none(song_page):  # noqa: F811
    page = song_page
    open_fills(page)
    add_one(page)
    detail = page.get_by_role("article")
    words = detail.locator(".words")
    before = words.inner_text()
    page.keyboard.press("]")
    expect(words).not_to_have_text(before)
    expect(detail.locator(".ends")).to_contain_text("as you said")
    page.keyboard.press("Control+z")
    expect(words).to_have_text(before)
    count = page.get_by_role("option").count()
    page.keyboard.press("n")
    expect(page.get_by_role("option")).to_have_count(count - 1)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("option")).to_have_count(count)


def test_its_hands_count_and_kit_are_chosen_and_an_exercise_goes_on_the_list(song_page):  # noqa: F811
    page = song_page
    open_fills(page)
    add_one(page)
    detail = page.get_by_role("article")
    choose(page, "Words of your school", "1 e & ah")
    expect(detail.locator(".count")).to_contain_text(re.compile(r"\d"))
    ways = detail.get_by_role("radio")
    if ways.count() > 1:
        page.keyboard.press("ArrowRight")
        expect(ways.nth(1)).to_be_checked()
    listed = detail.get_by_role("button", name="To the practice list").first
    listed.click()
    expect(detail.get_by_role("button", name="On the practice list")).to_have_count(1)
    page.reload()
    page.keyboard.press("Alt+5")
    expect(page.get_by_role("button", name="On the practice list")).to_have_count(1)

    page.get_by_role("button", name="Kits …").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_placeholder("Rehearsal room").fill("Drums reversed")
    dialog.get_by_text("left-handed: the kit is the other way round").click()
    dialog.get_by_role("button", name=re.compile("Create kit")).click()
    expect(dialog).to_be_hidden()
    expect(page.get_by_role("combobox", name="Kit of this song")).to_have_text("Drums reversed")


def test_a_fill_is_looped_with_its_lead_in(song_page):  # noqa: F811
    page = song_page
    open_fills(page)
    add_one(page)
    page.keyboard.press("l")
    _wait_for_sound(page)
    looped = page.get_by_role("article").locator("button.main")
    expect(looped).to_have_text(re.compile("End the loop"))
    page.keyboard.press("l")
    expect(looped).to_have_text(re.compile("Loop it"))


def test_the_feel_is_told_and_heard(song_page):  # noqa: F811
    page = song_page
    page.keyboard.press("Alt+6")
    expect(page.get_by_role("heading", name="Pocket")).to_be_visible()
    expect(page.get_by_role("region", name="Sound of the kit")).to_be_visible()
    expect(page.get_by_role("region", name="Pocket")).to_contain_text(".")
    page.keyboard.press("3")
    _wait_for_sound(page)
    expect(page.get_by_role("button", name=re.compile("twice as much"))).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.locator("[data-test=hearing]")).to_have_attribute("data-hearing", "kit")
    page.keyboard.press("1")
    expect(page.get_by_role("button", name=re.compile("on the grid"))).to_have_attribute(
        "aria-pressed", "true"
    )
