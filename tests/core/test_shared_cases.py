"""Cases that the core and the page both run: what the page shows at once is what will be stored."""

from tests.cases import edits


def test_the_cases_of_edits_are_what_the_core_does_today():
    assert edits.FILE.read_text() == edits.text(), "run python -m tests.cases.edits"


def test_they_hold_what_fits_and_what_does_not():
    outcomes = [case["after"] is None for case in edits.cases()]
    assert outcomes.count(True) >= 5
    assert outcomes.count(False) >= 5
