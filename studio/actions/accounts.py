"""Accounts: made, and the one of the demo."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import re
import zipfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import IO

from django.conf import settings
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.tokens import default_token_generator
from django.contrib.sessions.models import Session
from django.core import signing
from django.core.exceptions import ValidationError
from django.core.mail import send_mail
from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.utils.encoding import force_bytes, force_str
from django.utils.http import urlsafe_base64_decode, urlsafe_base64_encode

from orchesis.errors import Missing, OrchesisError
from studio import artefacts
from studio.actions.exchange import bundle_of
from studio.actions.importing import delete_song
from studio.models import OPEN_STATES, Account, JobKind, PracticeEntry, Song
from studio.names import check_name, skeleton
from studio.people import OpenSession
from studio.queueing import NotNow, has_just_failed, queue_job, take_up
from studio.spreadsheets import plain_cell
from studio.storage import PARTIAL_SUFFIX, need_room, removed_at_the_end, told_when_full

TAKEN = "That name is taken, or one that looks just like it."
DEMO_NAMES = ("demo", "demo-songs", "demo-songs-2", "demo-songs-3")


RESET_PAGE = "/reset/"
"""Where the link of a mail leads: account and secret come after it."""

PROOF_PAGE = "/confirm-email/"
PROOF_SALT = "email"
PROOF_SECONDS = 3 * 24 * 3600

LONGEST_BROWSER = 120


def check_free(name: str) -> None:
    """Raise ValidationError for what is no name, or one that looks like somebody else's."""
    check_name(name)
    if Account.objects.filter(skeleton=skeleton(name)).exists():
        raise ValidationError(TAKEN)


def make_account(name: str, password: str) -> User:
    """Make an account. Raises ValidationError with sentences for a person."""
    check_free(name)
    validate_password(password, User(username=name))
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
    found = User.objects.filter(account__is_demo=True, account__visit_ends_at=None).first()
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


def change_password(user: User, old: str, new: str) -> None:
    """Set another password. Raises ValidationError where the old one is wrong, or the new weak."""
    if not user.check_password(old):
        raise ValidationError("The password that you have now is another one.")
    validate_password(new, user)
    user.set_password(new)
    user.save(update_fields=["password"])


def send_email_confirmation(user: User, email: str, address: str) -> None:
    """Send a mail to an address that somebody says is theirs; it counts once its link was opened.

    address : of this server, as its pages have it. Nobody's other address is touched until then.
    """
    Account.objects.filter(user=user).update(unproved_email=email)
    token = signing.dumps([user.pk, email], salt=PROOF_SALT)
    send_mail(
        "Confirm your email address for Orchesis",
        f"Hello {user.get_username()},\n\nopen this link to confirm that this address is yours. "
        f"It works for three days:\n\n{address}{PROOF_PAGE}{token}\n\n"
        "If you did not ask for this, ignore this message: nothing will be sent here again.\n",
        settings.DEFAULT_FROM_EMAIL,
        [email],
    )


def confirm_email(token: str) -> User:
    """The link of that mail was opened: from now on mails go there.

    Raises Missing where the link is too old, or another address was given since.
    """
    try:
        number, email = signing.loads(token, salt=PROOF_SALT, max_age=PROOF_SECONDS)
    except (signing.BadSignature, ValueError, TypeError) as error:
        raise Missing("this link has expired: enter your email address again") from error
    account = Account.objects.filter(user=number, unproved_email=email).select_related("user")
    found = account.first()
    if found is None or not email:
        raise Missing("this link was used already, or you have entered another address since")
    with transaction.atomic():
        Account.objects.filter(pk=found.pk).update(unproved_email="")
        User.objects.filter(pk=found.user_id).update(email=email)
    return found.user


def remove_email(user: User) -> None:
    """Mails go nowhere any more."""
    Account.objects.filter(user=user).update(unproved_email="")
    User.objects.filter(pk=user.pk).update(email="")


def send_reset(name: str, address: str) -> None:
    """Send a mail by which a password is set anew, where that name has an address.

    address : of this server, as its pages have it. Whether anybody was found is told to nobody.
    """
    account = Account.objects.filter(skeleton=skeleton(name)).select_related("user").first()
    user = (
        account.user if account else User.objects.filter(email__iexact=name, email__gt="").first()
    )
    if user is None or not user.email or not user.is_active:
        return
    number = urlsafe_base64_encode(force_bytes(user.pk))
    link = f"{address}{RESET_PAGE}{number}/{default_token_generator.make_token(user)}"
    send_mail(
        "A new password for Orchesis",
        f"Hello {user.get_username()},\n\nsomebody, you I hope, wants to set your password anew. "
        f"This opens the page for it, once, within three days:\n\n{link}\n\n"
        "If it was not you, leave it: nothing has changed.\n",
        settings.DEFAULT_FROM_EMAIL,
        [user.email],
    )


def reset_password(number: str, token: str, new: str) -> User:
    """Set a password by the link of a mail, and sign out everywhere.

    Raises Missing where the link is not good any more, ValidationError for a weak password.
    """
    try:
        user = User.objects.get(pk=int(force_str(urlsafe_base64_decode(number))))
    except (ValueError, OverflowError, User.DoesNotExist) as error:
        raise Missing("this link is not good: ask for another mail") from error
    if not default_token_generator.check_token(user, token):
        raise Missing("this link was used already, or is too old: ask for another mail")
    validate_password(new, user)
    with transaction.atomic():
        user.set_password(new)
        user.save(update_fields=["password"])
        sign_out_everywhere(user)
    return user


def remember_session(user: User, key: str, browser: str) -> None:
    """List a browser in which somebody has signed in."""
    OpenSession.objects.update_or_create(
        key=key, defaults={"user": user, "browser": _called(browser)}
    )


def _called(agent: str) -> str:
    """What a browser calls itself, short: its name and its machine."""
    machine = re.search(r"\(([^;)]+)", agent)
    name = next(
        (one for one in ("Firefox", "Edg", "Chrome", "Safari") if one in agent), "a browser"
    )
    told = {"Edg": "Edge"}.get(name, name)
    return f"{told}, {machine[1].strip()}"[:LONGEST_BROWSER] if machine else told


def sign_out_everywhere(user: User, but: str | None = None) -> int:
    """End every session of somebody but one; gives back how many."""
    keys = list(user.open_sessions.exclude(key=but or "").values_list("key", flat=True))
    ended, _ = Session.objects.filter(session_key__in=keys).delete()
    OpenSession.objects.filter(key__in=keys).delete()
    return ended


def find_export(user: User) -> Path | None:
    """All that is somebody's, in one ZIP file; None while a worker packs it, from this moment on.

    Raises OrchesisError where packing it has just failed.
    """
    first = _own(user).first()
    if first is None:
        raise Missing("there is nothing of yours here yet")
    path = _export_path(user, first, _export_stamp(user))
    if artefacts.have(path):
        return path
    options = {"user": user.pk, "stamp": _export_stamp(user)}
    with transaction.atomic():
        Song.objects.select_for_update().only("pk").get(pk=first.pk)
        job = first.jobs.filter(kind=JobKind.EXPORT).first()
        if job is not None and job.is_stale:
            take_up(job)
        if job is not None and job.state in OPEN_STATES:
            return None
        if job is not None and job.options == options and has_just_failed(job):
            raise OrchesisError(job.message or "Your data could not be packed. Try again.")
        queue_job(first, JobKind.EXPORT, options=options)
    return None


def _export_path(user: User, first: Song, stamp: str) -> Path:
    """Beside the files of the oldest song; never handed out but by its owner's account."""
    return first.folder / "prints" / f"export-{user.pk}-{stamp}.zip"


def _export_stamp(user: User) -> str:
    """Another whenever something of it is another."""
    songs = _own(user).values_list("pk", "revision", "title", "updated_at")
    told = [user.get_username(), user.email, *map(str, songs)]
    told += map(str, PracticeEntry.objects.filter(owner=user).values_list("pk").order_by("pk"))
    told += [str(one) for one in user.comments.values_list("pk")]
    told += [str(one) for one in user.kits.values_list("pk", "values")]
    return hashlib.sha256("|".join(told).encode()).hexdigest()[:16]


def make_export(user: User, stamp: str, report: Callable[[float], None]) -> None:
    """Pack it, where `find_export` looks for it; what was packed before goes."""
    first = _own(user).first()
    if first is None:
        raise Missing("there is nothing of yours here any more")
    path = _export_path(user, first, stamp)
    songs = list(_own(user).filter(revision__gt=0))
    need_room(sum(song.source_bytes + 1_000_000 for song in songs), "your data was not packed")
    path.parent.mkdir(parents=True, exist_ok=True)
    for old in path.parent.glob(f"export-{user.pk}-*.zip"):
        artefacts.withdraw(old)
    partial = path.with_name(path.name + PARTIAL_SUFFIX)
    with told_when_full("your data was not packed"), removed_at_the_end(partial):
        with partial.open("wb") as target:
            _pack(user, songs, target, report)
        partial.replace(path)


def _pack(
    user: User, songs: Sequence[Song], target: IO[bytes], report: Callable[[float], None]
) -> None:
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as folder:
        taken: set[str] = set()
        for index, song in enumerate(songs):
            report(0.05 + 0.9 * index / len(songs))
            name = re.sub(r"[^\w .-]+", "_", song.title).strip(" .")[:80] or "song"
            while name.lower() in taken:
                name += "_"
            taken.add(name.lower())
            with bundle_of(song) as bundle, folder.open(f"songs/{name}.zip", "w") as place:
                while chunk := bundle.read(1 << 20):
                    place.write(chunk)
        folder.writestr("practice.csv", _log_of(user))
        folder.writestr("account.json", json.dumps(_account_of(user), ensure_ascii=False, indent=1))


def _own(user: User) -> QuerySet[Song]:
    """The songs of somebody; copies that are editions belong to theirs."""
    return Song.objects.filter(owner=user, is_copy_for=None).order_by("created_at")


def _log_of(user: User) -> str:
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(("played_at", "song", "title", "bpm", "loops", "minutes", "feeling"))
    for entry in PracticeEntry.objects.filter(owner=user).select_related("song"):
        song = entry.song.title
        cells = [plain_cell(one) for one in (song, entry.title)]
        rows.writerow(
            (
                entry.played_at.isoformat(),
                *cells,
                entry.bpm,
                entry.loops,
                entry.minutes,
                entry.feeling,
            )
        )
    return text.getvalue()


def _account_of(user: User) -> dict[str, object]:
    return {
        "name": user.get_username(),
        "email": user.email,
        "since": user.date_joined.isoformat(),
        "groups": [one.group.name for one in user.memberships.select_related("group")],
        "kits": [{"name": kit.name, **kit.values} for kit in user.kits.all()],
        "rhythms": [{"name": one.name, "entry": one.entry} for one in user.rhythms.all()],
        "comments": [
            {"bar": one.bar, "words": one.words, "at": one.created_at.isoformat()}
            for one in user.comments.all()
        ],
    }


def delete_account(user: User, password: str) -> None:
    """Remove an account with everything that is its own.

    Raises ValidationError for a wrong password, NotNow while songs are given to others, or others
    are in a band or class that it made.
    """
    if not user.check_password(password):
        raise ValidationError("That is not your password.")
    lead = [one.name for one in user.own_groups.all() if one.members.count() > 1]
    if lead:
        raise NotNow(f"others are in {', '.join(lead)}, which you made: remove that first")
    with transaction.atomic():
        user.own_groups.all().delete()
        for song in list(_own(user)):
            delete_song(song)
        sign_out_everywhere(user)
        user.delete()
