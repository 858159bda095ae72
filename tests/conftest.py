"""Which tests run in one process: those of a file, and all that drive the browser."""

import pytest
from xdist.scheduler import LoadScopeScheduling

BROWSER = "tests/browser/"


class ByFile(LoadScopeScheduling):
    """Files are spread over the processes; two browsers at once make each other late."""

    def _split_scope(self, nodeid):
        return BROWSER if nodeid.startswith(BROWSER) else nodeid.split("::", 1)[0]


@pytest.hookimpl(optionalhook=True)
def pytest_xdist_make_scheduler(config, log):
    """Instead of one of the plugin's own."""
    return ByFile(config, log)


def pytest_collection_modifyitems(items):
    """The browser first: it takes longest, and files fill what is left beside it."""
    items.sort(key=lambda item: not item.nodeid.startswith(BROWSER))
