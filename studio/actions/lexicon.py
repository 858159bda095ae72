"""A lexicon of one's own: grooves that somebody gave a name."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.db import IntegrityError, transaction

from orchesis.errors import Missing, OrchesisError
from orchesis.lexicon.match import entries, entry_from
from studio.models import OwnRhythm, Song
from studio.queueing import NotNow
from studio.values.grooves import main_phrase_of, typical_bars
from studio.values.stored import load_transcription

MOST_OWN = 200


def name_rhythm(song: Song, owner: User, first_bar: int, name: str) -> OwnRhythm:
    """Give the typical phrase of a section a name, by which it is known from now on.

    Raises Missing where no section begins with that bar, NotNow where the name is taken or there
    are too many, OrchesisError for a name that is none.
    """
    name = " ".join(name.split())
    if not name:
        raise OrchesisError("Give it a name.")
    if name.casefold() in {entry.name.casefold() for entry in entries()}:
        raise NotNow("A traditional rhythm has that name: choose another one.")
    if OwnRhythm.objects.filter(owner=owner).count() >= MOST_OWN:
        raise NotNow(f"You have named {MOST_OWN} rhythms: forget one first.")
    score = load_transcription(song)
    section = next((one for one in score.sections if one.first_bar == first_bar), None)
    phrase = main_phrase_of(score, section) if section else None
    if phrase is None:
        raise Missing("nothing is played in this section")
    made = entry_from(name, typical_bars(phrase), score.meter.pulses)
    try:
        with transaction.atomic():
            return OwnRhythm.objects.create(owner=owner, name=name, entry=made)
    except IntegrityError as error:
        raise NotNow("You have given that name already: choose another one.") from error
