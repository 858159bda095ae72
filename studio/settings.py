"""Settings of the studio: fit to be left running, on loopback, with secrets of its own.

Everything that differs from machine to machine comes from the launcher by environment variables;
secrets are generated once into the run folder.
"""

from __future__ import annotations

import os
import secrets
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
RUN = Path(os.environ.get("ORCHESIS_RUN", ROOT / ".run"))
RUN.mkdir(mode=0o700, parents=True, exist_ok=True)

ROLE = os.environ.get("ORCHESIS_ROLE", "")
"""`web` where somebody waits for the answer; a worker or a command may take its time."""

BEHIND_OUR_PROXY = os.environ.get("ORCHESIS_PROXY") == "1"
"""Our own nginx is in front: it says where a request comes from, and serves files for us."""

REQUEST_SECONDS = 15.0
"""Of the processor, for one request: a busy machine stops nobody's."""

REQUEST_WALL_SECONDS = 40.0
"""And by the clock, for what waits."""

ROOM_KEPT_BYTES = int(float(os.environ.get("ORCHESIS_ROOM_KEPT_MB", "256")) * 1024**2)
"""So much of the disk is left to what people decide: recordings and caches do not take it."""


MOST_SONGS = int(os.environ.get("ORCHESIS_MOST_SONGS", "5000"))
MOST_MEGABYTES = int(os.environ.get("ORCHESIS_MOST_MB", "50000"))
MOST_MINUTES_A_DAY = int(os.environ.get("ORCHESIS_MOST_MINUTES_A_DAY", "600"))
"""What one person may take of this machine; 0: as much as there is."""


KEEP_RECORDINGS_DAYS = int(os.environ.get("ORCHESIS_KEEP_RECORDINGS_DAYS", "0"))
"""So long after the last change of a song its recording is kept; 0: for ever. Charts always are."""


def secret(name: str) -> str:
    """A secret of this installation, made at its first use and readable by its owner alone.

    Several machines that are one installation are given it: ORCHESIS_SECRET_DJANGO and so on.
    """
    if given := os.environ.get(f"ORCHESIS_SECRET_{name.upper()}"):
        return given
    path = RUN / "secrets" / name
    if not path.exists():
        path.parent.mkdir(mode=0o700, exist_ok=True)
        with os.fdopen(os.open(path, os.O_CREAT | os.O_WRONLY, 0o600), "w") as file:
            file.write(secrets.token_urlsafe(50))
    return path.read_text()


DEBUG = False
SECRET_KEY = secret("django")
METRICS_WORD = secret("metrics")
"""What a monitor shows to be told the metrics: `Authorization: Bearer ...`."""

ALLOWED_HOSTS = [
    "127.0.0.1",
    "localhost",
    "[::1]",
    *filter(None, os.environ.get("ORCHESIS_HOSTS", "").split(",")),
]
IS_HTTPS = os.environ.get("ORCHESIS_HTTPS") == "1"
"""A proxy in front speaks TLS: cookies go by it only, addresses in mails begin with https."""

DEMO = os.environ.get("ORCHESIS_DEMO") == "1"

INSTALLED_APPS = [
    "django.contrib.admin.apps.SimpleAdminConfig",
    "django.contrib.messages",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "rest_framework",
    "drf_spectacular",
    "studio",
]
MIDDLEWARE = [
    "studio.tracing.Traced",
    "studio.metrics.Measured",
    "studio.middleware.SecurityHeaders",
    "django.middleware.security.SecurityMiddleware",
    "studio.middleware.DatabaseAway",
    "studio.middleware.Ceiling",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
]
ROOT_URLCONF = "studio.urls"
WSGI_APPLICATION = "studio.wsgi.application"
TEMPLATES: list[dict[str, Any]] = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        # Ours come before those of Django's admin.
        "DIRS": [ROOT / "studio" / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ]
        },
    }
]
"""For the pages of whoever runs this server; all others are drawn by the browser."""

DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"
APPEND_SLASH = False

DATABASE_SECONDS = 3 if ROLE == "web" else 60
"""So long a statement may wait for a database that does not answer."""

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "NAME": os.environ.get("ORCHESIS_DB_NAME", "orchesis"),
        "USER": os.environ.get("ORCHESIS_DB_USER", "orchesis"),
        "PASSWORD": os.environ.get("ORCHESIS_DB_PASSWORD") or secret("database"),
        "HOST": os.environ.get("ORCHESIS_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("ORCHESIS_DB_PORT", "33077"),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {
            "charset": "utf8mb4",
            "connect_timeout": 1 if ROLE == "web" else 10,
            "read_timeout": DATABASE_SECONDS,
            "write_timeout": DATABASE_SECONDS,
            "init_command": "SET time_zone='+00:00', "
            "sql_mode='STRICT_TRANS_TABLES,ERROR_FOR_DIVISION_BY_ZERO', "
            f"innodb_lock_wait_timeout={2 if ROLE == 'web' else 30}",
            "isolation_level": "read committed",
        },
    }
}

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
    {"NAME": "studio.passwords.NotLikeTheName"},
]
PASSWORD_HASHERS = [
    "studio.passwords.OneLaneArgon2",
    # Those of older accounts: replaced when they sign in.
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
GUESSES: dict[str, int] = {}

STATIC_URL = "/static/"
PLAYER_SOUNDS = ROOT / "frontend" / "public"
"""Kit and counting voice, as the browser plays them too."""

MEDIA_ROOT = Path(os.environ.get("ORCHESIS_MEDIA", RUN / "media"))

STORE_BUCKET = os.environ.get("ORCHESIS_STORE_BUCKET", "")
"""A store that speaks S3, for several hosts; empty: the folder above is all there is."""

LOCAL_MEGABYTES = int(os.environ.get("ORCHESIS_LOCAL_MB", "20000"))
"""So much a host keeps of what the store has too; what nobody has looked at for longest goes."""

STORAGES: dict[str, dict[str, Any]] = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
if STORE_BUCKET:
    STORAGES["artefacts"] = {
        "BACKEND": "storages.backends.s3.S3Storage",
        "OPTIONS": {
            "bucket_name": STORE_BUCKET,
            "endpoint_url": os.environ.get("ORCHESIS_STORE_ENDPOINT") or None,
            "region_name": os.environ.get("ORCHESIS_STORE_REGION") or None,
            "access_key": os.environ.get("ORCHESIS_STORE_KEY") or None,
            "secret_key": os.environ.get("ORCHESIS_STORE_SECRET") or None,
            "file_overwrite": True,
            "default_acl": None,
        },
    }

# Beside the recordings: what has arrived is given its place by a second name, not by copying.
FILE_UPLOAD_TEMP_DIR = str(RUN / "uploads")
Path(FILE_UPLOAD_TEMP_DIR).mkdir(mode=0o700, exist_ok=True)
FILE_UPLOAD_HANDLERS = ["studio.api.uploads.LimitedUploadHandler"]
DATA_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024
DATA_UPLOAD_MAX_NUMBER_FILES = 1

SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_AGE = 60 * 60 * 24 * 30
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = IS_HTTPS
if IS_HTTPS:
    # Said by our own proxy alone, which takes the word from nobody.
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "studio.api.problems.forged"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"

REGISTRATION = os.environ.get("ORCHESIS_REGISTRATION", "open")
"""Who may make an account: open, invitation (whoever has one to a band or class), closed."""

EMAIL_HOST = os.environ.get("ORCHESIS_MAIL_HOST", "")
EMAIL_PORT = int(os.environ.get("ORCHESIS_MAIL_PORT", "25"))
EMAIL_HOST_USER = os.environ.get("ORCHESIS_MAIL_USER", "")
EMAIL_HOST_PASSWORD = os.environ.get("ORCHESIS_MAIL_PASSWORD", "")
EMAIL_USE_TLS = os.environ.get("ORCHESIS_MAIL_TLS", "") == "1"
DEFAULT_FROM_EMAIL = os.environ.get("ORCHESIS_MAIL_FROM", "orchesis@localhost")
MAILS_ARE_KEPT = not EMAIL_HOST
"""Where no server is configured mails go to a folder, and a page of this machine shows them."""

MAILS_ARE_SHOWN = MAILS_ARE_KEPT and not os.environ.get("ORCHESIS_HOSTS")
"""Where a host name is configured others reach this server: the page is closed then."""

EMAIL_BACKEND = (
    "django.core.mail.backends.filebased.EmailBackend"
    if MAILS_ARE_KEPT
    else "django.core.mail.backends.smtp.EmailBackend"
)
EMAIL_FILE_PATH = str(MEDIA_ROOT.parent / "mails")
EMAIL_TIMEOUT = 10

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.SessionAuthentication"],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["studio.api.parsing.BoundedJSONParser"],
    "DEFAULT_SCHEMA_CLASS": "studio.api.contract.OperationSchema",
    "EXCEPTION_HANDLER": "studio.api.problems.handle",
    "UNAUTHENTICATED_USER": "django.contrib.auth.models.AnonymousUser",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Orchesis",
    "VERSION": "1",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "PATH_CONVERTER_OVERRIDES": {"bar": {"type": "integer"}, "row": {"type": "integer"}},
    "ENUM_NAME_OVERRIDES": {
        "RunStateEnum": "studio.models.RunState.choices",
        "SeatRoleEnum": "studio.people.SeatRole.choices",
        "GroupKindEnum": "studio.people.GroupKind.choices",
        "WishStateEnum": "studio.people.WishState.choices",
        "LinkStateEnum": "studio.api.sharing_serializers.LINK_STATES",
        "ProgressStandingEnum": "studio.api.group_serializers.STANDINGS",
        "SongRoleEnum": "studio.api.serializers.SONG_ROLES",
        "BeatNotationEnum": "studio.api.serializers.BEAT_NOTATIONS",
        "InstrumentEnum": "studio.api.serializers.INSTRUMENTS",
    },
}

REDIS_SOCKET = os.environ.get("ORCHESIS_REDIS_SOCKET", str(RUN / "redis.sock"))
REDIS_URL = os.environ.get("ORCHESIS_REDIS_URL") or f"unix://{REDIS_SOCKET}?db=0"
CELERY_BROKER_URL = (
    os.environ.get("ORCHESIS_REDIS_URL") or f"redis+socket://{REDIS_SOCKET}?virtual_host=0"
)
CELERY_TASK_ACKS_LATE = True
CELERY_TASK_REJECT_ON_WORKER_LOST = True
CELERY_TASK_IGNORE_RESULT = True
CELERY_TASK_TIME_LIMIT = 660
CELERY_TASK_SOFT_TIME_LIMIT = 600
CELERY_WORKER_PREFETCH_MULTIPLIER = 1
CELERY_WORKER_HIJACK_ROOT_LOGGER = False
# Above the hard limit: a task is never handed out twice while it may still run.
CELERY_BROKER_TRANSPORT_OPTIONS = {
    "visibility_timeout": 900,
    "socket_connect_timeout": 1,
    "max_retries": 1,
    **({"socket_timeout": 1} if ROLE == "web" else {}),
}
CELERY_TASK_PUBLISH_RETRY = False
CELERY_TASK_DEFAULT_QUEUE = "listen"
CELERY_BROKER_CONNECTION_RETRY_ON_STARTUP = True

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"lines": {"()": "studio.tracing.JsonLines"}},
    "handlers": {"stream": {"class": "logging.StreamHandler", "formatter": "lines"}},
    "root": {"handlers": ["stream"], "level": "INFO"},
}
