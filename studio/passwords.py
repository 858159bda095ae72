"""How passwords are kept, and how often they may be guessed.

A guess is counted before it is looked at, in Redis, for all processes together: by where it comes
from, and by the account that it is for. A browser that has signed in to the account before has an
allowance of its own ("device cookies", OWASP), so that strangers cannot lock anybody out; not even
those behind the same address.
"""

from __future__ import annotations

import logging
import time
from collections import defaultdict

import redis
from django.conf import settings
from django.contrib.auth.hashers import Argon2PasswordHasher
from django.core import signing
from django.core.exceptions import ValidationError
from django.http import HttpRequest
from django.http.response import HttpResponseBase

from studio.counters import connection
from studio.names import skeleton

log = logging.getLogger(__name__)

DEVICE_COOKIE = "orchesis_device"
DEVICE_SECONDS = 365 * 24 * 3600
WINDOW_SECONDS = 600
GUESSES = {"address": 120, "account": 10, "device": 10, "sign-up": 100}
"""In WINDOW_SECONDS. A school may be behind one address: thirty pupils sign in at eight o'clock."""


class OneLaneArgon2(Argon2PasswordHasher):
    """Argon2id in one lane: 46 MiB and one pass, the least that OWASP's cheat sheet names.

    A guess costs a tenth of a second, and memory; what it cost before, a whole one, was a way to
    stop everybody else.
    """

    time_cost = 1
    memory_cost = 47_104
    parallelism = 1


class NotLikeTheName:
    """A password validator: not the name with little around it, however it is written."""

    FEWEST_OWN = 6

    def validate(self, password: str, user: object = None) -> None:
        """Raise ValidationError for a password that is hardly more than the name."""
        name = skeleton(getattr(user, "username", "") or "")
        text = skeleton(password)
        left = text.replace(name, "").replace(name[::-1], "") if len(name) > 1 else text
        if len(left) < min(self.FEWEST_OWN, len(text)):
            raise ValidationError("The password is too similar to the name.")

    def get_help_text(self) -> str:
        """In a sentence."""
        return "The password is not the name with little around it."


class TooManyGuesses(Exception):
    """No more may be tried for now. `seconds`: until when."""

    def __init__(self, seconds: int) -> None:
        super().__init__(f"wait {seconds} s")
        self.seconds = seconds


def client_address(request: HttpRequest) -> str:
    """Where a request comes from: what our own proxy says, where there is one, else the peer.

    Headers of others are never believed: anybody can write them.
    """
    if settings.BEHIND_OUR_PROXY:
        return str(request.META.get("HTTP_X_REAL_IP", "unknown"))
    return str(request.META.get("REMOTE_ADDR", "unknown"))


def count_guess(request: HttpRequest, username: str) -> None:
    """Count a guess at an account's password. Raises TooManyGuesses before any work is done."""
    looks = skeleton(username)[:80]
    device = _device(request, looks)
    if device:
        _count("device", device)
        return
    _count("address", client_address(request))
    _count("account", looks)


def count_sign_up(request: HttpRequest) -> None:
    """Count an account that is being made. Raises TooManyGuesses."""
    _count("sign-up", client_address(request))


def remember_device(response: HttpResponseBase, username: str) -> None:
    """Let this browser's guesses at this account count apart from everybody else's."""
    value = signing.dumps([skeleton(username)[:80], time.time_ns()], salt=DEVICE_COOKIE)
    response.set_cookie(
        DEVICE_COOKIE,
        value,
        max_age=DEVICE_SECONDS,
        httponly=True,
        samesite="Strict",
        secure=settings.SESSION_COOKIE_SECURE,
    )


def _device(request: HttpRequest, looks: str) -> str | None:
    """The number of this browser, if it has been signed in to the account before."""
    try:
        owner, number = signing.loads(
            request.COOKIES.get(DEVICE_COOKIE, ""), salt=DEVICE_COOKIE, max_age=DEVICE_SECONDS
        )
    except (signing.BadSignature, ValueError, TypeError):
        return None
    return f"{looks} {number}" if owner == looks else None


_kept_here: dict[str, tuple[int, int]] = defaultdict(lambda: (0, 0))
"""Counts of this process alone, for as long as Redis does not answer: window and count."""


def _count(kind: str, who: str) -> None:
    window = int(time.time() // WINDOW_SECONDS)
    key = f"guesses:{kind}:{who}:{window}"
    try:
        pipe = connection().pipeline()
        pipe.incr(key)
        pipe.expire(key, WINDOW_SECONDS)
        count = int(pipe.execute()[0])
    except redis.RedisError as error:
        log.warning("guesses are counted by each process alone: %s", error)
        if len(_kept_here) > 10_000:
            _kept_here.clear()
        then, count = _kept_here[f"{kind}:{who}"]
        count = count + 1 if then == window else 1
        _kept_here[f"{kind}:{who}"] = (window, count)
    if count > settings.GUESSES.get(kind, GUESSES[kind]):
        raise TooManyGuesses(int((window + 1) * WINDOW_SECONDS - time.time()) + 1)
