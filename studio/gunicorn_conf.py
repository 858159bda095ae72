"""How gunicorn runs our workers: read by `launcher/web.py`'s command."""

from __future__ import annotations

import gc
import resource
from typing import Any

worker_class = "sync"
graceful_timeout = 10
max_requests = 500
max_requests_jitter = 200
accesslog = None

MEMORY_BYTES = 1536 * 1024**2
"""Of data that a worker may hold: several times what the longest song needs."""


def post_fork(server: Any, worker: Any) -> None:
    """Called in each new worker: it may not take the machine's memory from the others."""
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY_BYTES, MEMORY_BYTES))


def when_ready(server: Any) -> None:
    """Called before the workers are made: what they share stays shared."""
    gc.collect()
    gc.freeze()
