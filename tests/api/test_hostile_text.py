"""Whatever somebody types stays text: in pages, pictures, scores, tables, mails, names of files."""

import csv
import io
import json
import re
import uuid
import zipfile
from xml.etree import ElementTree

import pytest
from django.core import mail
from django.utils import timezone

from studio.actions import groups
from studio.people import GroupSong
from tests.api.conftest import made

HOSTILE = [
    "<script>alert(1)</script>",
    '"><img src=x onerror=alert(1)>',
    "]]></text><script/>",
    "=HYPERLINK(1)",
    "{{7*7}}${7*7}%s%(a)s",
    "'; DROP TABLE studio_song; --",
    "..\\..\\..\\etc/passwd",
    "\u202ekcatta\u202c \U0001f941",
]


@pytest.fixture(params=HOSTILE)
def named(request, as_ada, ada_song):
    """A song of which each word that can be typed is such a text."""
    text = request.param
    at = f"/api/songs/{ada_song.id}"
    told = as_ada.patch(at, {"title": text, "performer": text}, format="json")
    assert told.status_code == 200, told.content
    cue = {"bar": 2, "words": text[:60]}
    assert as_ada.post(f"{at}/cues", cue, format="json").status_code == 200
    ada_song.refresh_from_db()
    return ada_song, text


def elements_of(content: bytes) -> list[ElementTree.Element]:
    return list(ElementTree.fromstring(content).iter())


def test_answers_are_data_and_never_a_page(as_ada, named):
    song, text = named
    told = as_ada.get(f"/api/songs/{song.id}")
    assert told["Content-Type"] == "application/json"
    assert told["X-Content-Type-Options"] == "nosniff"
    assert "default-src 'self'" in told["Content-Security-Policy"]
    assert told.json()["title"] == text
    assert song.__class__.objects.filter(pk=song.pk).exists()


@pytest.mark.parametrize("reading", ["full", "essence", "map", "parts"])
def test_a_picture_has_nothing_that_runs(as_ada, named, reading):
    song, _ = named
    told = as_ada.get(f"/api/songs/{song.id}/chart", {"reading": reading})
    assert told.status_code == 200
    drawn = []
    for page in told.json()["pages"]:
        drawn += [page["texts"], *(system["svg"] for system in page["systems"])]
    assert drawn
    for svg in drawn:
        whole = f'<svg xmlns:xlink="http://www.w3.org/1999/xlink">{svg}</svg>'
        for element in elements_of(whole.encode()):
            assert element.tag.rpartition("}")[2] not in ("script", "img", "foreignObject")
            assert not [name for name in element.attrib if name.startswith("on")]


def test_a_score_for_other_programs_is_well_formed(as_ada, named):
    song, text = named
    told = as_ada.get(f"/api/songs/{song.id}/files/chart.musicxml")
    found = ElementTree.fromstring(told.content)
    titles = [element.text for element in found.iter() if element.tag in ("work-title",)]
    # Signs that turn writing round are left out of scores.
    assert re.sub("[\u202a-\u202e]", "", text) in titles
    header = told["Content-Disposition"]
    assert "chart.musicxml" in header
    assert not re.search(r"[/\\<>\r\n]|%2F|%5C|%E2%80%AE", header), header


def test_the_folder_for_any_web_server_runs_only_what_is_ours(as_ada, named):
    song, _ = named
    told, content = made(as_ada, f"/api/songs/{song.id}/pages.zip", {"reading": "essence"})
    assert not re.search(r"[/\\<>\r\n]|%2F|%5C", told["Content-Disposition"].partition("=")[2])
    folder = zipfile.ZipFile(io.BytesIO(content))
    assert all(".." not in name and not name.startswith("/") for name in folder.namelist())
    page = folder.read("chart/index.html").decode()
    assert re.findall(r"<script[^>]*>", page) == [
        '<script src="data.js">',
        '<script src="player.js">',
    ]
    assert "<img src=x" not in page


def test_a_table_has_no_formulas(as_ada, named):
    song, text = named
    entry = {
        "client_id": str(uuid.uuid4()),
        "target": "section-1",
        "step": "limb_by_limb-0",
        "title": text,
        "played_at": timezone.now().isoformat(),
        "share": 0.8,
        "bpm": 96,
        "loops": 8,
        "minutes": 4,
        "feeling": "easy",
        "told": [text],
    }
    at = f"/api/songs/{song.id}/practice/log"
    assert as_ada.post(at, {"entries": [entry]}, format="json").status_code == 200
    table = as_ada.get(f"{at}.csv")
    assert table.status_code == 200, "where the table is has changed"
    rows = list(csv.reader(io.StringIO(table.content.decode())))
    assert len(rows) == 2
    assert not [cell for cell in rows[1] if cell[:1] in "=+@\t\r" and cell]


def test_a_bundle_opens_again_and_writes_nowhere_else(as_ada, named, tmp_path):
    song, text = named
    told = as_ada.get(f"/api/songs/{song.id}/bundle")
    bundle = zipfile.ZipFile(io.BytesIO(b"".join(told.streaming_content)))
    assert all(".." not in name and not name.startswith(("/", "\\")) for name in bundle.namelist())
    score = json.loads(bundle.read("transcription.json"))
    assert score["title"] == text


def test_a_mail_has_no_header_that_somebody_typed(as_ada, ada, client, db):
    ada.email = "ada@example.org"
    ada.save()
    client.get("/api/session")
    told = client.post(
        "/api/session/forgot",
        json.dumps({"name": "ada\r\nBcc: all@example.org"}),
        content_type="application/json",
        headers={"x-csrftoken": client.cookies["csrftoken"].value},
    )
    assert told.status_code in (200, 204, 400)
    assert not mail.outbox


def test_a_band_sheet_is_a_sheet_whatever_it_is_called(as_ada, ada, named):
    song, text = named
    group = groups.make_group(ada, text[:60], "band")
    GroupSong.objects.create(group=group, song=song, place=0)
    sheet, content = made(as_ada, f"/api/groups/{group.pk}/sheet.pdf")
    assert content.startswith(b"%PDF")
    assert not re.search(r"[/\\<>\r\n]|%2F|%5C", sheet["Content-Disposition"])
