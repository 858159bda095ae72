"""Settings of the tests: as in use, with a fast password hasher and files of their own."""

import tempfile
from pathlib import Path

from studio.settings import *

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
MEDIA_ROOT = Path(tempfile.mkdtemp(prefix="orchesis-test-media-"))
CACHE_ROOT = Path(tempfile.mkdtemp(prefix="orchesis-test-cache-"))
DEMO = True
CELERY_TASK_ALWAYS_EAGER = True
CELERY_TASK_EAGER_PROPAGATES = True
REST_FRAMEWORK = {**REST_FRAMEWORK, "DEFAULT_THROTTLE_RATES": {"sign-in": None}}
