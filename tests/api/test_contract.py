"""That the check of every answer (`tests/contract.py`) can fail."""

import pytest

from tests.contract import BrokenContract, check_answer, schema_of


def test_an_unknown_field_is_refused():
    with pytest.raises(BrokenContract, match="dialect"):
        check_answer("api/rhythms", "GET", 200, b'[{"id": 1, "name": "x", "dialect": 2}]')


def test_a_missing_field_is_refused():
    with pytest.raises(BrokenContract, match="name"):
        check_answer("api/rhythms", "GET", 200, b'[{"id": 1}]')


def test_an_answer_that_is_not_promised_is_refused():
    with pytest.raises(BrokenContract, match="207"):
        schema_of("api/rhythms", "GET", 207)
    with pytest.raises(BrokenContract, match="not in the schema"):
        schema_of("api/nowhere", "GET", 200)


def test_an_error_has_the_shape_of_errors():
    check_answer("api/rhythms", "GET", 403, b'{"code": "x", "detail": "y"}')
    with pytest.raises(BrokenContract):
        check_answer("api/rhythms", "GET", 403, b'{"error": "y"}')
