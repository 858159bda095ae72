"""Accounts: made, and the one of the demo."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction

from studio.models import Account
from studio.names import check_name, skeleton

TAKEN = "That name is taken, or one that looks just like it."
DEMO_NAMES = ("demo", "demo-songs", "demo-songs-2", "demo-songs-3")


def make_account(name: str, password: str) -> User:
    """Make an account. Raises ValidationError with sentences for a person."""
    check_name(name)
    validate_password(password, User(username=name))
    if Account.objects.filter(skeleton=skeleton(name)).exists():
        raise ValidationError(TAKEN)
    try:
        with transaction.atomic():
            user = User.objects.create_user(name, password=password)
            Account.objects.create(user=user, skeleton=skeleton(name))
    except IntegrityError as error:
        raise ValidationError(TAKEN) from error
    return user


def demo_account() -> User:
    """The demo's account, which no password opens; made where there is none.

    A name that a person has taken, before such names were kept for the house, stays theirs.
    """
    found = User.objects.filter(account__is_demo=True).first()
    if found is not None:
        return found
    for name in DEMO_NAMES:
        looks = skeleton(name)
        if User.objects.filter(username=name).exists():
            continue
        if Account.objects.filter(skeleton=looks).exists():
            continue
        with transaction.atomic():
            user = User(username=name)
            user.set_unusable_password()
            user.save()
            Account.objects.create(user=user, skeleton=looks, is_demo=True)
        return user
    raise ValidationError("All names of the demo's account are taken by people.")
