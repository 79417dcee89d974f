"""Record over HTTP: seals, differences, photos, care, an archive that comes back equal."""

from __future__ import annotations

import hashlib
import io
import json
import re
import sqlite3
import zipfile
from pathlib import Path
from random import Random
from typing import Any
from uuid import uuid4

import icalendar
import pytest
from PIL import Image
from pypdf import PdfReader
from starlette.testclient import TestClient

from ready_trail.store import archives, db, facts, photos, vehicles
from ready_trail.store.backup import backup
from ready_trail.web.app import create_app
from support import circuit_named, demo
from web_support import on_one_line, pdf_text

JOB = "/jobs/2"
LAMP = circuit_named(demo(), "Wide driving lamp")
WIRE = "C16-W2"


def post(client: TestClient, address: str, **data: str) -> Any:
    return client.post(f"{JOB}/record/{address}", data={"key": str(uuid4()), **data})


def revision(client: TestClient) -> str:
    return str(client.get(f"/api{JOB}").json()["revision"])


def handed(client: TestClient) -> str:
    page = client.get(f"{JOB}/record").text
    found = re.search(rf'id="circuit-{LAMP}">(.*?)</summary>', page, re.S)
    assert found is not None
    return on_one_line(re.sub("<[^>]+>", " ", found[1]))


def test_a_circuit_is_sealed_with_a_reason_and_a_change_opens_it(client: TestClient) -> None:
    assert "still open" in handed(client)
    refused = post(client, "hand-over", circuit=LAMP)
    assert refused.status_code == 422
    assert "say why it may stay so" in refused.text
    stopped = post(
        client, "hand-over", circuit=circuit_named(demo(), "Rear work lights"), reason="later"
    )
    assert stopped.status_code == 422
    assert "A stop is open" in stopped.text
    assert post(client, "hand-over", circuit=LAMP, reason="read on Monday", who="Ada").is_success
    assert "handed over" in handed(client)
    paper = pdf_text(client.get(f"{JOB}/record/hand-over.pdf").content)
    assert "1 of 19 circuits are handed over" in paper
    assert "read on Monday" in paper
    assert post(client, "different", about=WIRE, what="size", value="10").is_success
    assert "changed since it was handed over" in handed(client)
    twice = {"key": str(uuid4()), "circuit": LAMP, "reason": "agreed with the owner"}
    for _ in range(2):
        assert client.post(f"{JOB}/record/hand-over", data=twice).is_success
    assert "changed" not in handed(client)
    sealed = client.get(f"{JOB}/record").text
    assert "agreed with the owner" in sealed
    hold = {"kind": "hold_choice", "circuit_id": LAMP, "what": "size", "value": "8"}
    client.post(f"{JOB}/edit", data={"revision": revision(client), "edit": json.dumps(hold)})
    assert "changed since it was handed over" in handed(client)


def test_a_difference_is_taken_over_put_right_or_left(client: TestClient) -> None:
    wrong = post(client, "different", about="C99-W1", what="size", value="10")
    assert wrong.status_code == 422
    assert 'value="C99-W1"' in on_one_line(wrong.text)
    for value in ("10 AWG", "8", "6"):
        assert post(client, "different", about=WIRE, what="size", value=value).is_success
    page = client.get(f"{JOB}/record").text
    keys = list(dict.fromkeys(re.findall(r'name="difference" value="([^"]+)"', page)))
    assert len(keys) == 3
    last, middle, first = keys  # the newest stands first
    taken = post(client, "settle", difference=first, how="taken_over", revision=revision(client))
    assert taken.is_success
    job = client.get(f"/api{JOB}").json()["job"]
    assert next(c for c in job["circuits"] if c["id"] == LAMP)["held"]["size"] == "10"
    assert post(client, "settle", difference=middle, how="put_right").is_success
    mute = post(client, "settle", difference=last, how="left", reason="")
    assert mute.status_code == 422
    assert post(client, "settle", difference=last, how="left", reason="short stretch").is_success
    before = client.get(f"{JOB}/record").text.count('name="difference"')
    for about, what, value in ((WIRE, "size", "quite thin"), ("F16", "fuse_a", "a large one")):
        no = post(client, "different", about=about, what=what, value=value)
        assert no.status_code == 422
        words = on_one_line(no.text)
        assert f"“{value}” is no" in words
        assert f'value="{value}"' in words
        assert words.count('name="difference"') == before
    assert post(client, "different", about=WIRE, what="size", value="22").is_success
    thin = on_one_line(client.get(f"{JOB}/record").text)
    assert "Not ready with it: A short at the far end outlasts" in thin
    key = re.findall(r'name="difference" value="([^"]+)"', thin)[0]
    kept = post(client, "settle", difference=key, how="left", reason="it works")
    assert kept.status_code == 422
    assert "It may not stay: A short at the far end outlasts" in kept.text
    assert 'value="it works"' in kept.text
    burning = post(client, "hand-over", circuit=LAMP, reason="it works")
    assert burning.status_code == 422
    assert "A stop is open" in burning.text
    assert post(client, "settle", difference=key, how="put_right").is_success
    text = on_one_line(client.get(f"{JOB}/record").text)
    assert "stays: short stretch" in text
    assert "put right" in text
    assert "differences open" not in text


def test_a_longer_wire_is_judged_and_a_position_that_others_have_is_told(
    client: TestClient,
) -> None:
    """The lead ahead of the fuse is the one that nothing protects."""
    assert post(client, "different", about="C2-W1", what="length_m", value="60 cm").is_success
    words = on_one_line(client.get(f"{JOB}/record").text)
    assert "Not ready with it: 560 mm of wire lie between the source and the fuse." in words
    assert "The layout gives this length" in words
    key = re.findall(r'name="difference" value="([^"]+)"', words)[0]
    kept = post(client, "settle", difference=key, how="left", reason="no room")
    assert "It may not stay: 560 mm of wire" in kept.text
    assert post(client, "different", about="F16", what="position", value="3").is_success
    assert "goes to position 2" in on_one_line(client.get(f"{JOB}/record").text)
    assert post(client, "different", about="F16", what="position", value="99").status_code == 422


def jpeg(width: int, height: int, **more: Any) -> bytes:
    out = io.BytesIO()
    Image.effect_noise((width, height), 60).convert("RGB").save(out, "JPEG", **more)
    return out.getvalue()


def upload(client: TestClient, data: bytes, about: str = "F16") -> Any:
    return client.post(
        f"{JOB}/record/photo",
        data={"key": str(uuid4()), "about": about, "words": "lid off"},
        files={"file": ("a.jpg", data, "image/jpeg")},
    )


def test_a_photo_is_shrunk_turned_and_stripped(client: TestClient, database: Path) -> None:
    exif = Image.Exif()
    exif[0x0112] = 6  # held upright
    exif[0x010F] = "somebody's phone"
    exif.get_ifd(0x8825)[1] = "N"
    assert upload(client, jpeg(3000, 2000, exif=exif)).is_success
    page = client.get(f"{JOB}/record?tab=photos").text
    name = re.search(r'src="(/jobs/2/record/photo/(\w+)\.jpg)"', page)
    assert name is not None
    kept = client.get(name[1])
    with Image.open(io.BytesIO(kept.content)) as photo:
        assert photo.size == (1067, 1600)
        assert not photo.getexif()
    assert b"somebody" not in kept.content
    copy = database.with_name("copy.db")
    backup(database, copy)
    assert photos.read_photo(copy, name[2]) == kept.content
    assert len(database.read_bytes()) < 12_000_000
    other = client.get(f"/jobs/1/record/photo/{name[2]}.jpg")
    assert other.status_code == 404, "photos of one job are not shown by another"


def bomb() -> bytes:
    """A picture of 100,000 by 100,000 that takes a few bytes."""
    out = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(out, "PNG")
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "Choose a photo first"),
        (b"no photo at all", "no photo that can be read"),
        (b"\x89PNG\r\n\x1a\n lying", "no photo that can be read"),
        (jpeg(400, 300)[:900], "no photo that can be read"),
        (b"\0\0\0\x18ftypheic" + b"\0" * 40, "HEIC"),
        (bomb(), "more pixels than any photo"),
    ],
)
def test_what_is_no_photo_is_refused_kindly(client: TestClient, data: bytes, words: str) -> None:
    answer = upload(client, data)
    assert answer.status_code == 422
    assert words in answer.text
    assert 'value="lid off"' in on_one_line(answer.text)


def test_a_photo_of_sixty_megabytes_is_refused(client: TestClient) -> None:
    answer = upload(client, b"\xff\xd8" + b"\0" * 60_000_000)
    assert answer.status_code == 413


def test_the_calendar_is_read_by_another_program(client: TestClient) -> None:
    assert post(client, "hand-over", circuit=LAMP, reason="read on Monday").is_success
    done = post(client, "care", care="torque", fine="true", km="512")
    assert done.is_success
    bad = post(client, "care", care="torque", km="far", found="loose")
    assert bad.status_code == 422
    assert 'value="far"' in on_one_line(bad.text)
    for day in ("2020-01-01", "2999-01-01", "yesterday"):
        early = post(client, "care", care="heat", fine="true", on=day)
        assert early.status_code == 422, day
        assert f'value="{day}"' in on_one_line(early.text)
        assert post(client, "visit", complaint="flickers", on=day).status_code == 422
    mute = post(client, "care", care="heat")
    assert mute.status_code == 422
    for address in (f"{JOB}/record/care.ics", "/care.ics"):
        calendar = icalendar.Calendar.from_ical(client.get(address).content)
        events = calendar.walk("VEVENT")
        assert len(events) == 6
        assert len({str(e["UID"]) for e in events}) == 6
        assert calendar.errors == []
        for event in events:
            assert event.errors == []
            assert event.decoded("DTEND") > event.decoded("DTSTART")
    assert "Re-torque" in client.get("/care").text


def test_cards_have_their_true_size(client: TestClient) -> None:
    for size, sides in (("a6", (148.0, 105.0)), ("credit", (85.6, 53.98))):
        pages = PdfReader(
            io.BytesIO(client.get(f"{JOB}/record/card.pdf?size={size}").content)
        ).pages
        assert len(pages) == 2
        for page in pages:
            box = page.mediabox
            got = (float(box.width) * 25.4 / 72, float(box.height) * 25.4 / 72)
            assert got == pytest.approx(sides, abs=0.05)
    text = pdf_text(client.get(f"{JOB}/record/card.pdf").content)
    assert "Roof light bar" in text
    assert "does not work" in text
    assert "Bay block" in pdf_text(client.get(f"{JOB}/record/covers.pdf").content)


def rows(database: Path, job_id: int) -> list[list[tuple[Any, ...]]]:
    """Everything of a job's vehicles, without numbers, keys and times of arrival."""
    conn = db.connect(database)
    try:
        found = []
        for vehicle in archives.vehicles_of(conn, job_id):
            own = [
                (k.table, *(v for n, v in k.row.items() if n not in ("key", "document")))
                for k in vehicle.facts
            ]
            stored = [
                re.sub(r'"key":"[^"]*"', "", k.row["document"])
                for k in vehicle.facts
                if k.table == "fact"
            ]
            found.append([(vehicle.name,), *own, *((x,) for x in stored)])
        return found
    finally:
        conn.close()


@pytest.mark.parametrize("seed", range(4))
def test_an_archive_comes_back_equal_in_every_fact(
    client: TestClient, database: Path, tmp_path: Path, seed: int
) -> None:
    chance = Random(seed)
    client.post(f"{JOB}/prove/vehicles", data={"name": "Second"})
    conn = db.connect(database)
    own = [v.vehicle_id for v in vehicles.list_vehicles(conn, 2)]
    conn.close()
    for _ in range(12):
        which = {"vehicle": str(chance.choice(own))}
        match chance.randrange(5):
            case 0:
                about = chance.choice((WIRE, "C15-W2", "F16"))
                post(client, "different", about=about, what="other", value=f"x{seed}", **which)
            case 1:
                post(client, "hand-over", circuit=LAMP, reason="öffnen → später", **which)
            case 2:
                post(client, "care", care="torque", fine="true", km=str(seed), **which)
            case 3:
                post(client, "visit", complaint="flackert", about=WIRE, cause="Ω", **which)
            case _:
                upload(client, jpeg(60 + chance.randrange(80), 50))
    tick = {"key": str(uuid4()), "item": "step:off", "done": True, "at": "2026-01-02T10:00:00Z"}
    client.post(f"{JOB}/ticks", content=json.dumps([tick]))
    packed = client.get(f"{JOB}/record/archive.zip").content
    elsewhere = tmp_path / "elsewhere.db"
    with TestClient(create_app(elsewhere), base_url="http://127.0.0.1") as other:
        for name in ("Marmot routed", "Marmot routed (2)"):
            taken = other.post(
                "/jobs/archive",
                data={"form_key": uuid4().hex},
                files={"file": ("a.zip", packed, "application/zip")},
            )
            assert taken.status_code == 200, taken.text[:500]
            assert name in taken.text
    for job_id in (1, 2):
        assert rows(elsewhere, job_id) == rows(database, 2)
    conn = db.connect(elsewhere)
    for digest in facts.photo_digests(conn):
        assert photos.read_photo(elsewhere, digest) == photos.read_photo(database, digest)
    conn.close()


def repacked(packed: bytes, **entries: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(packed)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            new.writestr(name, entries.pop(name, old.read(name)))
        for name, data in entries.items():
            new.writestr(name, data)
    return out.getvalue()


def test_a_bad_archive_is_refused_and_nothing_is_stored(client: TestClient) -> None:
    post(client, "visit", complaint="flickers")
    packed = client.get(f"{JOB}/record/archive.zip").content
    climbing = repacked(packed, **{"../../etc/evil": b"x"})
    lying = repacked(packed, **{f"photos/{'0' * 64}.jpg": b"other bytes"})
    text = b"no picture"
    no_photo = repacked(packed, **{f"photos/{hashlib.sha256(text).hexdigest()}.jpg": text})
    odd = repacked(packed, **{"facts/1.jsonl": b'{"table": "job", "document": "x"}\n'})
    bad_fact = repacked(
        packed, **{"facts/1.jsonl": b'{"table": "fact", "key": "12345678", "kind": "x"}\n'}
    )
    before = client.get("/").text.count("/brief")
    for data, words in (
        (b"", "choose an archive first"),
        (packed[: len(packed) // 2], "cut off or damaged"),
        (b"PK no archive", "cut off or damaged"),
        (climbing, "leads out of the archive"),
        (lying, "this photo is damaged"),
        (no_photo, "no photo as the program keeps them"),
        (odd, "is no fact"),
        (bad_fact, "no fact as this program keeps them"),
        (repacked(packed, **{"job.json": b"{}"}), "The archive was not taken"),
    ):
        answer = client.post(
            "/jobs/archive",
            data={"form_key": uuid4().hex},
            files={"file": ("a.zip", data, "application/zip")},
        )
        assert answer.status_code == 422, words
        assert words in answer.text
    assert client.get("/").text.count("/brief") == before


def test_facts_are_append_only(database: Path, client: TestClient) -> None:
    post(client, "visit", complaint="flickers")
    conn = db.connect(database)
    for change in ("DELETE FROM fact", "UPDATE fact SET kind = 'x'"):
        with pytest.raises(sqlite3.IntegrityError, match="append-only"):
            conn.execute(change)
    conn.close()
