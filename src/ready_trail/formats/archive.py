"""One file with everything of a job and its vehicles, for the next shop: it reads back whole.

A ZIP: ``job.json`` (the job file), ``vehicles.json``, ``facts/N.jsonl`` (a line a fact: ticks,
readings, the record), ``photos/DIGEST.jpg``, papers beside them for people.
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ready_trail.core.record.archived import TABLES, ArchivedVehicle, Kept
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import FILE_MOST_BYTES
from ready_trail.formats.photo import PHOTO_MOST_BYTES, is_kept

ARCHIVE_MOST_BYTES = 200_000_000
_UNPACKED_MOST = 400_000_000
_ENTRIES_MOST = 6_000
_FACTS_MOST_BYTES = 60_000_000
_FORMAT, _VERSION = "ready-trail-archive", 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Archive:
    """Everything of one job. ``papers`` are for people, by their names; they are not read back."""

    job: bytes
    vehicles: tuple[ArchivedVehicle, ...]
    photos: Mapping[str, bytes] = field(default_factory=dict)
    papers: Mapping[str, bytes] = field(default_factory=dict)


def to_zip(archive: Archive) -> bytes:
    """Return the archive as a file."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as file:
        about = {
            "format": _FORMAT,
            "version": _VERSION,
            "vehicles": [v.name for v in archive.vehicles],
        }
        file.writestr("about.json", json.dumps(about))
        file.writestr("job.json", archive.job)
        for at, vehicle in enumerate(archive.vehicles, start=1):
            lines = (json.dumps({"table": k.table, **k.row}) for k in vehicle.facts)
            file.writestr(f"facts/{at}.jsonl", "".join(f"{line}\n" for line in lines))
        for digest, data in archive.photos.items():
            file.writestr(zipfile.ZipInfo(f"photos/{digest}.jpg"), data)  # no smaller by packing
        for name, data in archive.papers.items():
            file.writestr(f"papers/{name}", data)
    return out.getvalue()


def from_zip(data: bytes) -> Archive:
    """Return what a file holds. Raises FileRefusedError in plain words; nothing is unpacked to
    disk, and names are only looked up, never followed.
    """
    if len(data) > ARCHIVE_MOST_BYTES:
        raise FileRefusedError("", f"it has more than {ARCHIVE_MOST_BYTES // 1_000_000} MB")
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            entries = file.infolist()
            if len(entries) > _ENTRIES_MOST:
                raise FileRefusedError("", "it holds more files than an archive has")
            if sum(e.file_size for e in entries) > _UNPACKED_MOST:
                raise FileRefusedError("", "unpacked it is larger than an archive may be")
            climbing = [n for n in file.namelist() if ".." in n.split("/") or n[:1] in ("/", "\\")]
            if climbing:
                raise FileRefusedError(climbing[0][:80], "leads out of the archive")
            return _read(file)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError) as error:
        raise FileRefusedError("", "this is no whole archive: it is cut off or damaged") from error


def _read(file: zipfile.ZipFile) -> Archive:
    about = _json(_entry(file, "about.json", 1_000_000), "about.json")
    if not isinstance(about, dict) or about.get("format") != _FORMAT:
        raise FileRefusedError("about.json", "this is no archive of a job")
    if about.get("version") != _VERSION:
        raise FileRefusedError("about.json", "it is of a later program: update this one first")
    names = about.get("vehicles")
    if not isinstance(names, list) or not 1 <= len(names) <= 200:
        raise FileRefusedError("about.json", "it names no vehicles")
    vehicles = []
    for at, name in enumerate(names, start=1):
        if not isinstance(name, str) or len(name) > 80:
            raise FileRefusedError("about.json", "a vehicle's name has at most 80 characters")
        where = f"facts/{at}.jsonl"
        text = _entry(file, where, _FACTS_MOST_BYTES)
        vehicles.append(ArchivedVehicle(name=name, facts=tuple(_facts(text, where))))
    photos: dict[str, bytes] = {}
    for entry in file.infolist():
        folder, _, name = entry.filename.partition("/")
        if folder == "photos" and name.endswith(".jpg"):
            photo = _entry(file, entry.filename, PHOTO_MOST_BYTES)
            digest = name.removesuffix(".jpg")
            if hashlib.sha256(photo).hexdigest() != digest:
                raise FileRefusedError(entry.filename[:80], "this photo is damaged")
            if not is_kept(photo):
                raise FileRefusedError(entry.filename[:80], "is no photo as the program keeps them")
            photos[digest] = photo
    return Archive(
        job=_entry(file, "job.json", FILE_MOST_BYTES), vehicles=tuple(vehicles), photos=photos
    )


def _entry(file: zipfile.ZipFile, name: str, most: int) -> bytes:
    try:
        info = file.getinfo(name)
    except KeyError:
        raise FileRefusedError(name, "is missing: the archive is not whole") from None
    if info.file_size > most:
        raise FileRefusedError(name[:80], "is larger than it may be")
    with file.open(info) as opened:
        data = opened.read(most + 1)
    if len(data) > most:
        raise FileRefusedError(name[:80], "is larger than it may be")
    return data


def _facts(text: bytes, where: str) -> Iterable[Kept]:
    for number, line in enumerate(text.splitlines(), start=1):
        row = _json(line, f"{where}, line {number}")
        table = row.pop("table", None) if isinstance(row, dict) else None
        if table not in TABLES:
            raise FileRefusedError(f"{where}, line {number}", "is no fact")
        yield Kept(table=table, row=row)


def _json(data: bytes, where: str) -> Any:
    try:
        return json.loads(data)
    except (ValueError, RecursionError) as error:
        raise FileRefusedError(where, "cannot be read") from error
