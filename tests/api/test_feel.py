"""The Feel stage over the API."""

from dataclasses import replace

import numpy as np

from orchesis.listening.candidates import Candidates
from orchesis.listening.evidence import Evidence, packed
from orchesis.listening.levels import Ring, StrokeLevels
from orchesis.music.instruments import Instrument
from orchesis.pipeline import Result
from studio.actions.store import store_transcription
from studio.models import Song
from tests.composing import ROCK, song

SNARE, HAT = Instrument.SNARE, Instrument.HIHAT_CLOSED


def stored(owner, piece):
    made = Song.objects.create(owner=owner, title="Felt", file_name="f.ogg", suffix=".ogg")
    store_transcription(made, Result(piece, (0.5,)))
    made.refresh_from_db()
    return made


def late(piece):
    return piece.with_hits(
        replace(hit, time=hit.time + (0.012 if hit.instrument is SNARE else 0.0))
        for hit in piece.hits
    )


def test_the_pocket_is_told_with_its_interval_and_what_to_do(as_ada, ada):
    felt = stored(ada, late(song([ROCK] * 12)))
    told = as_ada.get(f"/api/songs/{felt.id}/feel").json()
    voices = {one["voice"]: one for one in told["pocket"]["voices"]}
    assert voices["backbeat"]["ms"] == 12.0
    assert voices["backbeat"]["strokes"] == 24
    assert "waits 12 ms for the hat" in told["pocket"]["advice"]
    assert told["pace"]["words"].startswith("All sections have one tempo")
    assert [one["label"] for one in told["swing"]] == ["Verse"]


def test_what_was_not_measured_is_said_and_not_guessed(as_ada, ada):
    told = as_ada.get(f"/api/songs/{stored(ada, song([ROCK] * 12)).id}/feel").json()
    assert told["dynamics"] is None
    assert told["sound"] == []
    assert "listen to it again" in told["missing"]


def test_loudness_and_ring_come_from_what_was_heard(as_ada, ada):
    piece = song([ROCK] * 12)
    felt = stored(ada, piece)
    snares = [hit for hit in piece.hits if hit.instrument is SNARE]
    nothing = np.zeros(0, np.float32)
    evidence = Evidence(
        classes=(SNARE, HAT),
        frame_rate=100.0,
        onsets=np.zeros((100, 2), np.uint8),
        found=Candidates(nothing.astype(int), nothing.astype(int), nothing, nothing, nothing),
        rise=np.zeros((0, 83), np.float32),
        levels=StrokeLevels(
            (SNARE, HAT),
            np.array([hit.time for hit in snares]),
            np.zeros(len(snares), np.int64),
            np.zeros(len(snares), np.float32),
        ),
        rings=(Ring(SNARE, 0.1, 0.09, 0.12, 20),),
    )
    felt.folder.mkdir(parents=True, exist_ok=True)
    felt.evidence_path.write_bytes(packed(evidence))
    told = as_ada.get(f"/api/songs/{felt.id}/feel").json()
    assert told["missing"] == ""
    assert told["dynamics"]["backbeat"]["strokes"] == 24
    assert "Too few ghosts" in told["dynamics"]["ghost_words"]
    assert told["sound"][0]["instrument"] == "snare"
    assert "dry" in told["sound"][0]["words"]
