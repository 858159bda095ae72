"""Settings of the tests: as in use, with a fast password hasher and files of their own."""

import tempfile
from pathlib import Path

from studio.settings import *

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
MEDIA_ROOT = Path(tempfile.mkdtemp(prefix="orchesis-test-media-"))

DEMO = True
CELERY_TASK_ALWAYS_EAGER = True
CELERY_TASK_EAGER_PROPAGATES = True
GUESSES = {"address": 10**9, "account": 10**9, "device": 10**9, "sign-up": 10**9}
FILE_UPLOAD_TEMP_DIR = tempfile.mkdtemp(prefix="orchesis-test-uploads-")
ROOM_KEPT_BYTES = 0
