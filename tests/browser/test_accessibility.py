"""Every main view against the rules of axe-core: nothing serious may be found."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.test_slice import song_page  # noqa: F401

AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
WORST = {"serious", "critical"}


def findings(page) -> list[str]:
    """What axe-core finds wrong and calls serious: the rule, and the first element of each."""
    # The page lets no foreign script in, so it is run from outside of it.
    page.evaluate(AXE.read_text())
    result = page.evaluate("axe.run(document, { resultTypes: ['violations'] })")
    return [
        f"{item['id']}: {item['help']} ({node['html'][:200]}) {node['failureSummary'][:300]}"
        for item in result["violations"]
        if item["impact"] in WORST
        for node in item["nodes"][:3]
    ]


def test_axe_finds_what_is_wrong(page, application):
    page.goto(application.address)
    page.evaluate("document.body.innerHTML = '<main><button></button><img src=\"x\"></main>'")
    assert {"button-name", "image-alt"} <= {found.split(":")[0] for found in findings(page)}


def test_the_door(page, application):
    page.goto(application.address)
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    assert "\n".join(findings(page)) == ""


@pytest.fixture
def views(song_page):  # noqa: F811
    page = song_page
    page.wait_for_load_state("networkidle")
    yield page


def test_the_shelf(views):
    page = views
    page.get_by_role("link", name="Orchesis").click()
    expect(page.get_by_role("heading", name="Songs")).to_be_visible()
    assert "\n".join(findings(page)) == ""


STAGES = ["listen", "form", "review", "grooves", "fills", "feel", "chart", "practice"]


@pytest.mark.parametrize("key", range(1, 9), ids=STAGES)
def test_a_stage(views, key):
    page = views
    page.keyboard.press(f"Alt+{key}")
    page.wait_for_timeout(600)
    assert "\n".join(findings(page)) == ""


def test_what_opens_over_and_beside_the_stack(views):
    page = views
    for tab in ("Count", "Kin"):
        page.get_by_role("tab", name=tab).click()
        page.wait_for_timeout(600)
        assert findings(page) == [], tab
    page.get_by_role("combobox", name="What you hear").click()
    page.get_by_role("listbox").wait_for()
    page.wait_for_timeout(300)
    assert "\n".join(findings(page)) == ""
    page.keyboard.press("Escape")
    page.locator("body").click(position={"x": 5, "y": 600})
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.wait_for_timeout(400)
    assert "\n".join(findings(page)) == ""


def test_the_tabs_beside_the_stack_are_walked_by_arrows(views):
    page = views
    page.get_by_role("tab", name="Note").focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("tab", name="Count")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("tabpanel")).to_contain_text("said")


def test_the_form_is_one_stop_of_tab_and_walked_by_arrows(views):
    page = views
    page.keyboard.press("Alt+2")
    stops = page.locator(".cell[tabindex='0']")
    expect(stops).to_have_count(1)
    stops.focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator(".cell:focus")).to_have_attribute("tabindex", "0")


def test_the_big_player(views):
    page = views
    page.keyboard.press("Alt+8")
    expect(page.locator("[data-test=practise]")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="Practice player")).to_be_visible()
    page.locator("[data-test=sound]").click()
    page.wait_for_timeout(300)
    assert "\n".join(findings(page)) == ""


def test_sharing_and_comments(views):
    page = views
    page.locator("[data-test=share]").click()
    page.locator("[data-test=make-link]").click()
    expect(page.locator("[data-test=address]")).to_be_visible()
    assert "\n".join(findings(page)) == ""
    page.keyboard.press("Escape")
    page.locator("[data-test=comments]").click()
    page.locator("[data-test=comment]").fill("Is this ghost there?")
    page.get_by_role("button", name="Comment", exact=True).click()
    expect(page.get_by_role("button", name="Settled")).to_be_visible()
    assert "\n".join(findings(page)) == ""


def test_bands_and_the_account(views):
    page = views
    home = "/".join(page.url.split("/")[:3])
    page.goto(f"{home}/people")
    page.locator("[data-test=group-name]").fill("Tuesday")
    page.get_by_role("button", name=re.compile("Create")).click()
    page.locator("[data-test=invite]").click()
    expect(page.locator("[data-test=invitation]")).to_be_visible()
    page.locator("[data-test=wish-title]").fill("Slow Ferry")
    page.get_by_role("button", name="Wish for it").click()
    page.locator("[data-test=put-song]").click()
    expect(page.get_by_role("button", name="Band sheet")).to_be_visible()
    page.locator("[data-test=give]").click()
    page.wait_for_timeout(600)
    assert "\n".join(findings(page)) == ""
    for path in ("account", "forgot", "mails", "shared/nothing"):
        page.goto(f"{home}/{path}")
        page.wait_for_load_state("networkidle")
        assert findings(page) == [], path
