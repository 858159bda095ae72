"""Settings of the tests: as in use, with a fast password hasher and files of their own."""

import atexit
import shutil
import tempfile
from pathlib import Path

from studio.settings import *

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


def _folder(what: str) -> Path:
    """A folder of this process, gone when it ends."""
    made = Path(tempfile.mkdtemp(prefix=f"orchesis-test-{what}-"))
    atexit.register(shutil.rmtree, made, ignore_errors=True)
    return made


MEDIA_ROOT = _folder("media")

DEMO = True
CELERY_TASK_ALWAYS_EAGER = True
CELERY_TASK_EAGER_PROPAGATES = True
GUESSES = {"address": 10**9, "account": 10**9, "device": 10**9, "sign-up": 10**9}
FILE_UPLOAD_TEMP_DIR = str(_folder("uploads"))
ROOM_KEPT_BYTES = 0
MIDDLEWARE = ["tests.contract.ContractMiddleware", *MIDDLEWARE]
