"""Which tests run in one process: those of a file, and all that start a whole application."""

import pytest
from xdist.scheduler import LoadScopeScheduling

WHOLE_APPLICATIONS = tuple(
    f"tests/{name}"
    for name in ("browser/", "launcher/test_backup", "launcher/test_deploy", "launcher/test_hosts")
)
"""Two applications and two browsers at once make each other late on two cores."""


class ByFile(LoadScopeScheduling):
    """Files are spread over the processes; whole applications are one of them."""

    def _split_scope(self, nodeid):
        file = nodeid.split("::", 1)[0]
        return "whole applications" if file.startswith(WHOLE_APPLICATIONS) else file


@pytest.hookimpl(optionalhook=True)
def pytest_xdist_make_scheduler(config, log):
    """Instead of one of the plugin's own."""
    return ByFile(config, log)


def pytest_collection_modifyitems(items):
    """Whole applications first: they take longest, and files fill what is left beside them."""
    items.sort(key=lambda item: not item.nodeid.startswith(WHOLE_APPLICATIONS))
