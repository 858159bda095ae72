"""Two hosts without a disk in common: what one imports the other hears, and the first plays it."""

import uuid

from benchmarks.faults import hosts
from benchmarks.faults.kills import note_at
from benchmarks.faults.stack import Person


def cowbells(person, song):
    bars = person.get(f"{song}/score")[1]["bars"]
    return sum(hit["instrument"] == "cowbell" for bar in bars for hit in bar["hits"])


def test_what_one_host_imports_another_hears_and_the_first_plays(tmp_path):
    with (
        hosts.between(tmp_path / "between") as environment,
        hosts.host(tmp_path / "pages", environment, "web,keeper") as pages,
        hosts.host(tmp_path / "worker", environment, f"web,{hosts.WORKING}") as worker,
    ):
        person = Person(pages.port)
        person.sign_up("several")
        sound = hosts.short_song(tmp_path, 16)
        status, made = person.upload("/api/songs", "song.ogg", sound)
        assert status == 201, made
        assert hosts.finished(person, [made["id"]], 180) == ["done"]
        song = f"/api/songs/{made['id']}"
        own = pages.folder / "media" / made["id"]
        assert (worker.folder / "media" / made["id"] / "listening.ogg").exists()
        assert not (own / "listening.ogg").exists(), "nobody has asked for it here"
        status, played = person.get(f"{song}/audio")
        assert status == 200
        assert (own / "listening.ogg").read_bytes() == played
        assert person.get(f"{song}/grooves")[0] == 200
        assert hosts.printed(person, made["id"])
        # Whoever is signed in at one is at the other, which shows what he did there, and undoes it.
        elsewhere = Person(worker.port, dict(person.cookies))
        edit = {"client_id": str(uuid.uuid4()), "edits": [{"before": None, "after": note_at(1, 0)}]}
        assert person.post(f"{song}/edits", edit)[0] == 200
        assert cowbells(elsewhere, song) == cowbells(person, song) == 1
        assert elsewhere.post(f"{song}/undo", {})[0] == 200
        assert cowbells(elsewhere, song) == cowbells(person, song) == 0
        # What is removed here is gone for the others too.
        assert person.request("DELETE", song)[0] == 204
        assert person.get(f"{song}/audio")[0] == 404
