"""Two hosts without a disk in common: what one imports the other hears, and the first plays it."""

from benchmarks.faults import hosts
from benchmarks.faults.stack import Person


def test_what_one_host_imports_another_hears_and_the_first_plays(tmp_path):
    with (
        hosts.between(tmp_path / "between") as environment,
        hosts.host(tmp_path / "pages", environment, "web,keeper") as pages,
        hosts.host(tmp_path / "worker", environment, "listen,print") as worker,
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
        # What is removed here is gone for the others too.
        assert person.request("DELETE", song)[0] == 204
        assert person.get(f"{song}/audio")[0] == 404
