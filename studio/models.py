"""What is stored: songs with their bars, jobs, the log of edits, and what accounts are beside.

A bar is a row of its own, so that an edit locks and writes one bar, and two people who edit
different bars never wait for each other (`actions/locking.py`).
"""

from __future__ import annotations

import uuid
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db import models
from django.utils import timezone

from studio import people as people

STALE_AFTER = timedelta(seconds=16)
"""A running job whose heart has not beaten for so long was interrupted."""


class Kit(models.Model):
    """A player and his kit, as `orchesis.limbs.kit.Player` has it: what a song is played on."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="kits")
    name = models.CharField(max_length=60)
    values = models.JSONField(default=dict)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="one_kit_a_name")]


class Song(models.Model):
    """A recording and what was made of it. `header` is the transcription without its hits."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="songs")
    title = models.CharField(max_length=200)
    file_name = models.CharField(max_length=255)
    suffix = models.CharField(max_length=8)
    source_bytes = models.PositiveBigIntegerField(default=0)
    duration = models.FloatField(default=0.0)
    tempo_bpm = models.FloatField(default=0.0)
    meter = models.CharField(max_length=8, blank=True)
    header = models.JSONField(null=True)
    # Which run the evidence beside it is of: what is worked out from it is kept by that.
    heard = models.PositiveIntegerField(default=0)
    loudness = models.JSONField(default=list)
    revision = models.PositiveIntegerField(default=0)
    kit = models.ForeignKey(Kit, models.SET_NULL, null=True, related_name="songs")
    performer = models.CharField(max_length=200, blank=True)
    # What the shelf shows, as of the revision that it was counted at (`actions.counting`).
    counted_at = models.PositiveIntegerField(default=0)
    feel = models.CharField(max_length=80, blank=True)
    bar_count = models.PositiveIntegerField(default=0)
    doubt_count = models.PositiveIntegerField(default=0)
    difficulty = models.FloatField(default=0.0)
    rhythms = models.CharField(max_length=400, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)
    updated_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-created_at"]
        indexes = [models.Index(fields=["owner", "-created_at"], name="shelf_newest_first")]

    def __str__(self) -> str:
        return self.title

    @property
    def has_score(self) -> bool:
        """Whether it has been transcribed; the long header need not be read for that."""
        return self.revision > 0

    @property
    def folder(self) -> Path:
        """Where its files are. The name is ours: nothing of the upload's name is in it."""
        return Path(settings.MEDIA_ROOT) / str(self.id)

    @property
    def source_path(self) -> Path:
        """The recording as it was imported."""
        return self.folder / f"source{self.suffix}"

    @property
    def listening_path(self) -> Path:
        """The copy that browsers play."""
        return self.folder / "listening.ogg"

    @property
    def evidence_path(self) -> Path:
        """What the network said, packed."""
        return self.folder / "evidence.npz"

    @property
    def peaks_path(self) -> Path:
        """The waveform, a byte for each hundredth of a second."""
        return self.folder / "peaks.bin"

    def masks_path(self, run: int) -> Path:
        """The drums' share of the sound as a run heard it, until the record is taken apart."""
        return self.folder / f"masks-{run}.npz"

    def part_path(self, part: str) -> Path:
        """Drums forward, drums down, bass forward."""
        return self.folder / f"{part}.ogg"


class Artefact(models.Model):
    """Which content a file of a song has, where a store is shared (`studio/artefacts.py`)."""

    song = models.ForeignKey(Song, models.CASCADE, related_name="artefacts")
    name = models.CharField(max_length=120)
    sha256 = models.CharField(max_length=64, db_index=True)
    size = models.PositiveBigIntegerField()
    published_at = models.DateTimeField()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["song", "name"], name="one_content_a_name")]


class SongBar(models.Model):
    """The hits of one bar, as in transcription.json, and how often it was changed."""

    song = models.ForeignKey(Song, models.CASCADE, related_name="bars")
    number = models.IntegerField()
    hits = models.JSONField(default=list)
    revision = models.PositiveIntegerField(default=0)
    # What it plays as bits (groove.kinship), so that many bars are compared fast; null: stale.
    groove = models.BinaryField(null=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["song", "number"], name="one_row_a_bar")]


class JobKind(models.TextChoices):
    """What the workers do for a song."""

    LISTEN = "listen", "listening"
    COPY = "copy", "making the copy to play from"
    PARTS = "parts", "taking the record apart"
    PREPARE = "prepare", "preparing the page"
    LINE_UP = "line_up", "lining up a second recording"
    PRINT = "print", "printing the chart"
    MIX = "mix", "rendering a practice mix"
    READ = "read", "reading a file of another program"
    COMPARE = "compare", "reading a file beside a song"
    EXPORT = "export", "packing all that is somebody's"


class RunState(models.TextChoices):
    """Where a job stands."""

    QUEUED = "queued", "waiting"
    RUNNING = "running", "listening"
    DONE = "done", "done"
    FAILED = "failed", "failed"
    CANCELLED = "cancelled", "cancelled"
    INTERRUPTED = "interrupted", "interrupted"


OPEN_STATES = (RunState.QUEUED, RunState.RUNNING)


class Job(models.Model):
    """Work in the background. This row is the truth of it; the queue only wakes the workers.

    `attempts` grows by one whenever a worker takes the job: who holds an older number has lost it,
    and must not store anything any more.
    """

    song = models.ForeignKey(Song, models.CASCADE, related_name="jobs")
    source = models.ForeignKey("Source", models.CASCADE, null=True, related_name="jobs")
    kind = models.CharField(max_length=8, choices=JobKind.choices, default=JobKind.LISTEN)
    options = models.JSONField(default=dict)
    state = models.CharField(max_length=12, choices=RunState.choices, default=RunState.QUEUED)
    stage = models.CharField(max_length=20, blank=True)
    progress = models.FloatField(default=0.0)
    message = models.CharField(max_length=500, blank=True)
    attempts = models.PositiveSmallIntegerField(default=0)
    cancel_requested = models.BooleanField(default=False)
    # Of the request that asked for it, as in the logs.
    trace = models.CharField(max_length=32, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)
    woken_at = models.DateTimeField(null=True)
    # When somebody last looked at the song while this waited.
    asked_at = models.DateTimeField(null=True)
    started_at = models.DateTimeField(null=True)
    heartbeat_at = models.DateTimeField(null=True)
    finished_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["state", "kind"], name="jobs_by_state")]

    @property
    def is_stale(self) -> bool:
        """True for a running job that nobody works on any more."""
        return (
            self.state == RunState.RUNNING
            and self.heartbeat_at is not None
            and timezone.now() - self.heartbeat_at > STALE_AFTER
        )


class EditEntry(models.Model):
    """One edit as a value, with who made it; the client's id makes sending it twice harmless."""

    song = models.ForeignKey(Song, models.CASCADE, related_name="edits")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    """None: somebody whose account has ended."""

    client_id = models.UUIDField()
    bar_number = models.IntegerField()
    edit = models.JSONField()
    words = models.CharField(max_length=200)
    undone = models.BooleanField(default=False)
    redoable = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["song", "client_id"], name="an_edit_counts_once")
        ]


class SongChange(models.Model):
    """A change of the whole song (its reading, its grid, its form): how it was and how it is.

    `before` and `after` hold the values of the header that differ and, where strokes were written
    anew, the hits of each bar.
    """

    song = models.ForeignKey(Song, models.CASCADE, related_name="changes")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    """None: somebody whose account has ended."""

    words = models.CharField(max_length=200)
    before = models.JSONField()
    after = models.JSONField()
    undone = models.BooleanField(default=False)
    redoable = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class SourceState(models.TextChoices):
    """Where the lining up of a second recording stands."""

    QUEUED = "queued", "waiting"
    RUNNING = "running", "lining up"
    READY = "ready", "lined up"
    REFUSED = "refused", "does not fit"
    FAILED = "failed", "was not lined up"


class Source(models.Model):
    """A second recording of a song: where it has what the song has is offset + speed * time."""

    song = models.ForeignKey(Song, models.CASCADE, related_name="sources")
    title = models.CharField(max_length=200)
    suffix = models.CharField(max_length=8)
    source_bytes = models.PositiveBigIntegerField(default=0)
    state = models.CharField(max_length=8, choices=SourceState.choices, default=SourceState.QUEUED)
    offset = models.FloatField(default=0.0)
    speed = models.FloatField(default=1.0)
    error = models.FloatField(default=0.0)
    words = models.CharField(max_length=300, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    @property
    def source_path(self) -> Path:
        """The recording as it was added."""
        return self.song.folder / f"source-{self.pk}{self.suffix}"

    @property
    def aligned_path(self) -> Path:
        """Its copy on the song's own time, which browsers play."""
        return self.song.folder / f"aligned-{self.pk}.ogg"

    @property
    def evidence_path(self) -> Path:
        """What the network heard in it, on the song's own time."""
        return self.song.folder / f"evidence-{self.pk}.npz"


class Account(models.Model):
    """What an account is beside its name and password.

    `skeleton` is what the name looks like (`studio.names`): no two accounts look alike. `is_demo`
    is set by the loader of the demo alone: this account is entered by one click.
    """

    user = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE, related_name="account")
    skeleton = models.CharField(max_length=300, unique=True)
    is_demo = models.BooleanField(default=False)
    # Of a visitor of the demo, who has copies of its songs: when they and the account go.
    visit_ends_at = models.DateTimeField(null=True, db_index=True)
    # Where mails shall go, until the link in a mail to it is opened.
    unproved_email = models.EmailField(max_length=200, blank=True)


class PracticeItem(models.Model):
    """Something of a song that somebody put on his list to practise: an exercise of a fill."""

    song = models.ForeignKey(Song, models.CASCADE, related_name="practice_items")
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    bar = models.IntegerField()
    key = models.CharField(max_length=20)
    title = models.CharField(max_length=120)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(
                fields=["song", "owner", "bar", "key"], name="an_exercise_is_on_the_list_once"
            )
        ]


class PracticePlan(models.Model):
    """The steps that somebody chose for a groove or a fill of a song: `values.practice`."""

    song = models.ForeignKey(Song, models.CASCADE, related_name="practice_plans")
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    target = models.CharField(max_length=40)
    steps = models.JSONField(default=list)
    """Keys of steps, in the order in which they are practised."""

    at = models.PositiveSmallIntegerField(default=0)
    """Which of them one is at."""

    updated_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(
                fields=["song", "owner", "target"], name="one_plan_for_each_groove_and_fill"
            )
        ]


class PracticeEntry(models.Model):
    """What somebody practised: a step at a tempo, how often, how it felt. It outlives its plan.

    `client_id` is made where it was practised: sent twice, it is one entry.
    """

    song = models.ForeignKey(Song, models.CASCADE, related_name="practice_entries")
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    client_id = models.UUIDField()
    target = models.CharField(max_length=40)
    step = models.CharField(max_length=40)
    title = models.CharField(max_length=200)
    played_at = models.DateTimeField()
    share = models.FloatField()
    bpm = models.FloatField()
    loops = models.PositiveIntegerField()
    minutes = models.FloatField()
    feeling = models.CharField(max_length=8)
    level_db = models.FloatField(null=True)
    told = models.JSONField(default=list)
    """What was said of the playing, where a kit was listened to."""

    class Meta:
        ordering = ["played_at", "id"]
        indexes = [models.Index(fields=["owner", "song", "played_at"], name="log_by_owner")]
        constraints = [
            models.UniqueConstraint(fields=["owner", "client_id"], name="an_entry_is_sent_once")
        ]


class OwnRhythm(models.Model):
    """A rhythm that somebody gave a name: an entry of his lexicon, see `orchesis.lexicon`."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="rhythms")
    name = models.CharField(max_length=60)
    entry = models.JSONField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "name"], name="one_rhythm_of_a_name")
        ]
