"""Listen and Form on a real song: readings, taps, a second recording, the form by keyboard."""

import re
import time
import wave

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.helpers import choose, undo
from tests.browser.test_slice import (  # noqa: F401
    _wait_for_sound,
    sign_up,
    song_page,
)

pytestmark = pytest.mark.browser


def stage(page, number, heading):
    page.keyboard.press(f"Alt+{number}")
    expect(page.get_by_role("heading", name=heading)).to_be_visible()


def tap_along(page):
    """Tap eleven beats, a hundred a minute, and lay the grid; gives back how fast they came to be.

    Taps that are no steady pulse are refused in a sentence: one begins anew then. So does this,
    where the machine stood still meanwhile, and where its sound did, which leaves one tap.
    """
    lay = page.locator("[data-test=lay]")
    for _ in range(3):
        page.keyboard.press("Space")
        _wait_for_sound(page)
        began = time.monotonic()
        for beat in range(11):
            page.wait_for_timeout(max(0.0, began + 0.6 * beat - time.monotonic()) * 1000)
            page.keyboard.press("t")
        page.keyboard.press("Space")
        expect(page.locator("[data-test=tapping]")).to_contain_text(re.compile(r"\d taps?"))
        if page.locator("[data-test=tapping]").get_by_text("11 taps").is_visible():
            with page.expect_response("**/taps") as answered:
                lay.click()
            if answered.value.ok:
                taps = answered.value.request.post_data_json["taps"]
                assert len(taps) == 11
                return 60 * 10 / (taps[-1] - taps[0])
        page.get_by_role("button", name="Begin anew").click()
    raise AssertionError("three times eleven taps were no steady pulse")


def labels(page):
    return page.locator("[data-test=section] .label").all_inner_texts()


def bars_of(page):
    return page.locator("[data-test=section] .cell").count()


def test_another_reading_taps_and_undo(song_page):  # noqa: F811
    page = song_page
    stage(page, 1, "What we hear")
    first = page.locator(".reading.taken strong").inner_text()
    other = page.locator("button.reading", has_text="2/4").first
    wanted = other.locator("strong").inner_text()
    other.click()
    expect(page.locator(".reading.taken strong")).to_have_text(wanted)
    page.keyboard.press("Control+z")
    expect(page.locator(".reading.taken strong")).to_have_text(first)

    # A finding is confirmed, and stays so after a reload.
    page.locator("[data-test=confirm-feel]").click()
    expect(page.locator("[data-test=confirm-feel]")).to_have_text("✓ confirmed")
    page.reload()
    page.keyboard.press("Alt+1")
    expect(page.locator("[data-test=confirm-feel]")).to_have_text("✓ confirmed")

    # Tap along with the record, by key, and lay the grid.
    page.keyboard.press("t")
    tapped = tap_along(page)
    expect(page.locator(".reading.taken strong")).to_contain_text("tapped")
    tempo = float(re.search(r"at (\d+)", page.locator(".reading.taken strong").inner_text())[1])
    assert tempo == pytest.approx(tapped, rel=0.15)
    page.keyboard.press("Control+z")
    expect(page.locator(".reading.taken strong")).to_have_text(first)


def test_a_second_recording_is_added_and_heard(song_page, take):  # noqa: F811
    page = song_page
    stage(page, 1, "What we hear")
    page.locator("[data-test=add-source]").set_input_files(take)
    source = page.locator("[data-test=source]")
    expect(source).to_contain_text("fits to")
    title = source.locator("p").inner_text().split("\n")[0].strip()
    source.get_by_role("button", name="hear").click()
    expect(page.locator("[data-test=hearing]")).to_have_attribute(
        "data-hearing", re.compile(r"source:\d+")
    )
    page.locator("[data-test=play]").click()
    _wait_for_sound(page)
    page.locator("[data-test=play]").click()
    # Its evidence can be laid under the bars instead of the record's.
    page.keyboard.press("Alt+4")
    choose(page, "Whose evidence is shaded", title)
    expect(page.locator(".sounded").first).to_be_visible()
    page.keyboard.press("Alt+1")
    source.get_by_role("button", name=re.compile("away")).click()
    page.get_by_role("button", name="Take it away", exact=True).click()
    expect(source).to_have_count(0)


def test_the_form_by_keyboard_alone_and_all_of_it_undone(song_page):  # noqa: F811
    page = song_page
    stage(page, 2, "Form")
    before, total = labels(page), bars_of(page)
    rows = page.locator("[data-test=section]")
    counts = [rows.nth(index).locator(".cell").count() for index in range(rows.count())]
    longest = counts.index(max(counts))
    for _ in range(longest):
        page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("s")
    expect(rows).to_have_count(len(before) + 1)
    page.keyboard.press("ArrowDown")
    page.keyboard.press("r")
    page.keyboard.type("Half chorus")
    page.keyboard.press("Enter")
    expect(rows.nth(longest + 1).locator(".label")).to_have_text("Half chorus")
    page.keyboard.press(".")
    expect(rows.nth(longest).locator(".cell")).to_have_count(2)
    # Six bars are odd until somebody says that they are six.
    form = page.locator("nav.stages button", has_text="Form")
    odd = int(re.search(r"(\d+) odd to check", form.inner_text())[1])
    page.keyboard.press("y")
    expect(page.locator(f"[data-test=confirm-section-{longest + 1}]")).to_have_text("✓ confirmed")
    expect(form).to_contain_text(f"{odd - 1} odd to check" if odd > 1 else "sections")
    assert bars_of(page) == total
    for _ in range(4):
        undo(page)
    expect(rows).to_have_count(len(before))
    assert labels(page) == before


def start_of(page, bar):
    """The start of a bar in seconds, as the server has it."""
    song_id = page.url.rstrip("/").split("/")[-1]
    return page.evaluate(
        "([id, n]) => fetch(`/api/songs/${id}/score`).then((a) => a.json())"
        ".then((s) => s.bars.find((b) => b.number === n).start)",
        [song_id, bar],
    )


def test_a_bar_line_is_drawn_on_the_waveform_and_a_tempo_is_typed(song_page):  # noqa: F811
    page = song_page
    stage(page, 1, "What we hear")
    page.keyboard.press("w")
    page.locator("[data-test=zoom]").fill("60")
    handle = page.locator("[data-test^='line-']").nth(2)
    expect(handle).to_be_visible()
    bar = int(handle.get_attribute("data-test").removeprefix("line-"))
    before = start_of(page, bar)
    box = handle.bounding_box()
    page.mouse.move(box["x"] + 6, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 14, box["y"] + 8, steps=4)
    page.mouse.up()
    expect(page.locator("[data-test=notice]")).to_contain_text(f"Bar {bar} drawn to")
    drawn = start_of(page, bar)
    assert 0.005 < drawn - before < 0.5
    # The same by keyboard, back by a hundredth.
    page.locator(f"[data-test=line-{bar}]").press("ArrowLeft")
    expect(page.locator("[data-test=notice]")).to_contain_text(f"{drawn - 0.01:.2f}")
    for _ in range(2):
        undo(page)
    assert start_of(page, bar) == before

    page.get_by_role("button", name="Tap along").click()
    page.locator("[data-test=typed]").fill("48")
    page.locator("[data-test=lay-tempo]").click()
    expect(page.locator(".reading.taken strong")).to_contain_text("typed")
    page.keyboard.press("Control+z")
    expect(page.locator(".reading.taken strong")).not_to_contain_text("typed")


@pytest.fixture
def rubato(tmp_path):
    """Twenty seconds of single tones, none after the other by a steady step."""
    rng = np.random.default_rng(0)
    rate, at = 22_050, 0.3
    samples = np.zeros(20 * rate)
    while at < 19:
        start = round(at * rate)
        t = np.arange(min(len(samples) - start, 2 * rate)) / rate
        hertz = 220 * 2 ** (rng.integers(-5, 12) / 12)
        tones = [np.sin(2 * np.pi * hertz * k * t) * np.exp(-t * (1.5 + k)) / k for k in (1, 2, 3)]
        samples[start : start + len(t)] += sum(tones)
        at += rng.uniform(0.35, 1.7)
    path = tmp_path / "free.wav"
    with wave.open(str(path), "wb") as file:
        file.setparams((1, 2, rate, 0, "NONE", ""))
        file.writeframes((samples / np.abs(samples).max() * 20_000).astype("<i2").tobytes())
    return path


def test_where_no_beat_is_found_it_is_said_and_tapping_is_offered(page, application, rubato):
    sign_up(page, application)
    page.locator("[data-test=file]").set_input_files(rubato)
    page.locator("a.title").click()
    expect(page.get_by_role("heading", name="No steady beat was found")).to_be_visible()
    expect(page.locator("[data-test=lay]")).to_be_disabled()
    tap_along(page)
    expect(page.locator(".reading.taken strong")).to_contain_text("tapped")
    expect(page.locator("header .song")).to_contain_text("bpm")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("heading", name="No steady beat was found")).to_be_visible()
