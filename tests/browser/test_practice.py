"""Practice on a real song: a whole plan by keys alone, a broken connection, a kit that answers."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_slice import song_page  # noqa: F401

pytestmark = pytest.mark.browser

MIX_SECONDS = 180
JOBS = """
from studio.models import Job
for job in Job.objects.exclude(state="done"):
    print(job.kind, job.state, job.attempts, job.created_at, job.started_at, job.message)
"""
LOG = """async () => {
  const id = location.pathname.split('/')[2]
  return (await (await fetch(`/api/songs/${id}/practice`)).json()).log
}"""


@pytest.fixture
def practice(song_page):  # noqa: F811
    """The stage, when all that it needs is kept in the browser."""
    page = song_page
    page.keyboard.press("Alt+8")
    expect(page.locator("[data-test=kept]")).to_be_visible()
    return page


def player(page):
    return page.get_by_role("region", name="Practice player")


def test_a_whole_plan_by_keys_through_a_broken_connection(practice):
    page = practice
    steps = page.locator(".steps li").count()
    assert steps >= 3
    titles = page.locator(".steps strong").all_inner_texts()
    page.keyboard.press("Enter")
    expect(player(page)).to_be_visible()
    page.keyboard.press("Space")
    for number in range(steps):
        expect(player(page)).to_contain_text(f"Step {number + 1} of {steps}")
        expect(page.locator("[data-test=practice-play]")).to_have_accessible_name("Pause")
        page.wait_for_timeout(3600)
        if number == 1:
            page.context.set_offline(True)
        page.keyboard.press("7" if number % 2 else "9")
        page.keyboard.press("Enter" if number + 1 < steps else "Escape")
        if number == 1:
            # It plays on, and what was practised is kept here.
            expect(page.locator("[data-test=waiting]")).to_contain_text("kept here")
        if number == 2:
            page.context.set_offline(False)
    expect(player(page)).not_to_be_visible()
    expect(page.get_by_text("kept here until Orchesis")).not_to_be_visible()
    log = page.evaluate(LOG)
    assert [entry["title"] for entry in log] == titles
    assert {entry["feeling"] for entry in log} == {"easy", "tense"}
    assert all(entry["minutes"] > 0.05 for entry in log)


def test_the_page_comes_back_without_a_connection(practice):
    page = practice
    page.context.set_offline(True)
    page.reload()
    expect(page.locator("[data-test=practise]")).to_be_visible()
    page.keyboard.press("Enter")
    page.keyboard.press("Space")
    expect(page.locator("[data-test=practice-play]")).to_have_accessible_name("Pause")
    expect(page.locator("[data-test=passes]")).not_to_have_attribute("data-passes", "0")
    page.context.set_offline(False)


def test_a_late_left_hand_is_told_and_drawn(practice):
    page = practice
    page.get_by_role("button", name="hands, then feet").click()
    page.keyboard.press("Enter")
    page.locator("[data-test=kit]").click()
    page.get_by_role("combobox", name="Who listens").click()
    page.get_by_role("option", name="a stand-in plays for you").click()
    page.keyboard.press("Space")
    told = page.locator("[data-test=told]")
    expect(told).to_contain_text(re.compile(r"left hand is 1\d ms late|right hand is"))
    assert page.locator(".fell line").count() > 8


def test_the_tempo_is_changed_and_two_beats_are_cut_out(practice):
    page = practice
    page.keyboard.press("Enter")
    bpm = page.locator("[data-test=bpm]")
    before = int(bpm.inner_text())
    page.keyboard.press("ArrowRight")
    assert int(bpm.inner_text()) > before
    page.keyboard.press("ArrowLeft")
    assert int(bpm.inner_text()) == before
    lanes = page.get_by_role("img", name=re.compile("The step on its lanes"))
    whole = lanes.get_attribute("aria-label")
    page.keyboard.press("z")
    expect(lanes).not_to_have_attribute("aria-label", whole)


def test_a_pedal_learns_to_go_on(practice):
    page = practice
    page.keyboard.press("Enter")
    page.locator("[data-test=kit]").click()
    page.get_by_role("button", name="Next step").first.click()
    page.keyboard.press("F9")
    page.keyboard.press("F9")
    expect(player(page)).to_contain_text("Step 2 of")


@pytest.mark.parametrize("size", [(844, 390), (667, 375), (390, 844)])
def test_on_a_phone_nothing_lies_over_the_lanes(practice, size):
    page = practice
    page.locator("[data-test=practise]").click()
    page.set_viewport_size({"width": size[0], "height": size[1]})
    lanes = player(page).get_by_role("img", name=re.compile("The step on its lanes")).bounding_box()
    foot = player(page).locator("footer").bounding_box()
    head = player(page).locator("header").bounding_box()
    assert head["y"] + head["height"] <= lanes["y"]
    assert foot["y"] + foot["height"] <= size[1] + 1, "what is tapped is in sight"
    # What does not fit is scrolled to; the hands, at least, are seen above the foot.
    assert lanes["y"] + 0.55 * lanes["height"] < foot["y"]
    assert lanes["width"] > 0.85 * size[0]
    assert page.evaluate("document.documentElement.scrollWidth") <= size[0]


def test_a_mix_is_rendered_and_saved(practice, application):
    page = practice
    page.get_by_role("button", name="A mix to take along").click()
    saved = []
    page.on("download", lambda file: saved.append(file.suggested_filename))
    page.locator("[data-test=mix]").click()
    # Whichever comes first, so that what went wrong is said: the file, or a sentence about it.
    told = page.locator(".mix [role=alert]")
    for _ in range(MIX_SECONDS):
        if saved or told.count():
            break
        page.wait_for_timeout(1000)
    assert not told.count(), told.inner_text()
    assert saved, f"still rendering: {application.manage('shell', '-c', JOBS)}"
    assert saved[0].endswith("practice.mp3")
    # What was taken along is not in the page's place where there is no connection.
    page.context.set_offline(True)
    page.reload()
    expect(page.locator("[data-test=practise]")).to_be_visible()
    page.context.set_offline(False)


def test_steps_are_moved_and_taken_off_and_kept(practice):
    page = practice
    titles = page.locator(".steps strong").all_inner_texts()
    page.get_by_role("button", name="Later").click()
    expect(page.locator(".steps strong").nth(1)).to_have_text(titles[0])
    page.get_by_role("button", name="Take off").click()
    expect(page.locator(".steps li")).to_have_count(len(titles) - 1)
    page.wait_for_load_state("networkidle")
    page.reload()
    expect(page.locator(".steps li")).to_have_count(len(titles) - 1)


def test_fewer_notes_are_chosen_and_practised_by_keys(practice):
    page = practice
    page.get_by_label("Which notes are practised").focus()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("option", name="All notes")).to_be_visible()
    page.keyboard.press("End")
    page.keyboard.press("Enter")
    expect(page.locator(".plan h2")).to_have_text(re.compile(r", kick and backbeat$"))
    # The list has given the keys back: Enter begins to practise.
    expect(page.locator("body")).to_be_focused()
    page.keyboard.press("Enter")
    expect(player(page)).to_contain_text("kick and backbeat")
    expect(page.locator("[data-test=practice-play]")).to_be_visible()
