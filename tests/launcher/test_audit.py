"""The audit that can be made without any server of advisories."""

from launcher import audit


def test_what_is_installed_is_what_is_locked():
    locked, installed = audit.locked_python(), audit.python_packages()
    assert len(locked) > 60
    assert {"pip", "setuptools", "django", "numpy"} <= installed.keys() & locked.keys()
    assert audit.drift("Python", locked, installed) == []
    assert audit.drift("npm", audit.locked_node(), audit.node_packages()) == []


def test_audit_reports_versions_other_than_locked():
    told = audit.drift(
        "Python", {"django": "5.2.19", "redis": "6"}, {"django": "5.0", "redis": "6"}
    )
    assert told == ["Python: django is 5.0, and 5.2.19 is locked"]


def test_a_version_is_found_in_the_ranges_of_faulty_ones():
    ranges = ["<2.2.28", ">=3.0,<3.2.13"]
    assert audit.is_listed("3.2.1", ranges)
    assert audit.is_listed("2.2.4", ranges)
    assert not audit.is_listed("5.2.19", ranges)
