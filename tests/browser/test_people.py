"""A bandmate with a link, a teacher and a student, two who work on one song: each in a browser."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.helpers import choose, window_of
from tests.browser.test_slice import sign_up, song_page  # noqa: F401

pytestmark = pytest.mark.browser


@pytest.fixture
def other(song_page):  # noqa: F811
    """Another window, in which nobody is signed in."""
    context = window_of(song_page.context.browser, viewport={"width": 1280, "height": 800})
    yield context.new_page()
    context.close()


def home_of(page):
    return "/".join(page.url.split("/")[:3])


def make_link(page, *, with_audio=False):
    page.locator("[data-test=share]").click()
    page.locator("[data-test=link-words]").fill("Saturday's band")
    if with_audio:
        page.get_by_role("checkbox").check()
    page.locator("[data-test=make-link]").click()
    address = page.locator("[data-test=address]").first.input_value()
    page.keyboard.press("Escape")
    return address


def test_a_bandmate_opens_a_link_and_plays(song_page, other):  # noqa: F811
    address = make_link(song_page)
    other.set_viewport_size({"width": 390, "height": 844})
    other.goto(address)
    expect(other.get_by_role("heading", name="Essence")).to_be_visible()
    stages = other.locator("nav.stages button")
    assert [text.split("\n")[0] for text in stages.all_inner_texts()] == ["Chart", "Practice"]
    expect(other.get_by_text("Undo")).to_have_count(0)
    stages.nth(1).click()
    other.locator("[data-test=practise]").click()
    other.locator("[data-test=practice-play]").click()
    expect(other.locator("[data-test=practice-play]")).to_have_accessible_name("Pause")
    other.wait_for_timeout(3600)
    other.locator("[data-test=leave]").click()
    # What a guest practises stays with him, and is told there.
    expect(other.get_by_text("passes,")).to_be_visible()

    song_page.locator("[data-test=share]").click()
    expect(song_page.get_by_text("opened once")).to_be_visible()
    song_page.get_by_role("button", name="Take back: Saturday's band").click()
    expect(song_page.get_by_text("One link opens nothing any more.")).to_be_visible()
    other.reload()
    expect(other.get_by_role("heading", name="This link does not open")).to_be_visible()
    expect(other.get_by_role("alert")).to_contain_text("was taken back: ask")


def test_from_a_class_to_the_log_and_back(song_page, other):  # noqa: F811
    teacher, student = song_page, other
    home = home_of(teacher)
    teacher.goto(f"{home}/people")
    teacher.locator("[data-test=group-name]").fill("Tuesday")
    choose(teacher, "What it is", "a class")
    teacher.get_by_role("button", name=re.compile("Create")).click()
    teacher.locator("[data-test=invite]").click()
    invitation = teacher.locator("[data-test=invitation]").input_value()

    sign_up(student, home)
    student.goto(invitation)
    expect(student.get_by_role("heading", name="Tuesday")).to_be_visible()

    teacher.reload()
    teacher.locator("[data-test=give]").click()
    choose(teacher, "Notes", "Kick and backbeat")
    teacher.locator("[data-test=give-it]").click()
    expect(teacher.get_by_role("list", name="Not begun").locator("li")).to_have_count(1)

    student.goto(f"{home}/songs")
    expect(student.get_by_role("heading", name="Your assignments")).to_be_visible()
    student.get_by_role("button", name=re.compile("^Practise ")).click()
    expect(student.locator(".asked")).to_contain_text("from Tuesday")
    student.locator("[data-test=practise]").click()
    expect(student.locator("[data-test=asked]")).to_have_text(re.compile(r"asked for: \d+"))
    student.locator("[data-test=practice-play]").click()
    expect(student.locator("[data-test=practice-play]")).to_have_accessible_name("Pause")
    student.wait_for_timeout(3800)
    with student.expect_response("**/practice/log"):
        student.keyboard.press("Escape")

    teacher.reload()
    expect(teacher.locator("[data-test=student]")).to_contain_text(re.compile(r"begun|at \d+ of"))
    expect(teacher.locator("[data-test=student]")).to_contain_text("on 1 day")


def test_a_co_transcriber_is_seen_and_answered(song_page, other):  # noqa: F811
    owner = song_page
    home, song = home_of(owner), owner.url
    name = sign_up(other, home)
    owner.locator("[data-test=share]").click()
    owner.locator("[data-test=seat-name]").fill(name)
    choose(owner, "What they may do", "may work on it too")
    owner.get_by_role("button", name="Let in").click()
    expect(owner.get_by_role("dialog").get_by_text(name)).to_be_visible()
    owner.keyboard.press("Escape")

    other.goto(song)
    expect(other.locator(".rows .row").first).to_be_visible()
    other.locator("[data-test=comments]").click()
    other.locator("[data-test=comment]").fill("A ghost here?")
    other.get_by_role("button", name="Comment", exact=True).click()
    expect(other.get_by_text("A ghost here?")).to_be_visible()

    owner.reload()
    expect(owner.locator("[data-test=here]")).to_contain_text(f"{name} at bar")
    expect(owner.locator("[data-test=comments]")).to_have_text(re.compile(r"Comments \(1\)"))
    owner.locator("[data-test=comments]").click()
    owner.get_by_role("button", name="Settled").click()
    expect(owner.get_by_text("All is settled.")).to_be_visible()
