"""What several browser tests do with a page."""


def choose(page, label, words):
    """From a list that opens: by the words of what is chosen, the first where there are several."""
    page.get_by_role("combobox", name=label).click()
    page.get_by_role("option", name=words).first.click()
    page.locator(".p-select-list").wait_for(state="hidden")
