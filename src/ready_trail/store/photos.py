"""Photos in the database's side folder, each by its digest: the file itself stays small."""

from __future__ import annotations

import hashlib
import os
import shutil
from pathlib import Path
from uuid import uuid4

from ready_trail.store.errors import NotFoundError


def folder_of(database: Path) -> Path:
    """Return the folder beside a database."""
    return database.with_name(f"{database.name}.photos")


def keep_photo(database: Path, data: bytes) -> str:
    """Keep a photo and return its digest; the same one twice is kept once."""
    digest = hashlib.sha256(data).hexdigest()
    path = _path(database, digest)
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        beside = path.with_name(f"{digest}.{uuid4().hex}")
        beside.write_bytes(data)
        os.replace(beside, path)
    return digest


def read_photo(database: Path, digest: str) -> bytes:
    """Return a photo. Raises NotFoundError."""
    if len(digest) != 64 or not set(digest) <= set("0123456789abcdef"):
        raise NotFoundError("photo", digest[:64])
    try:
        return _path(database, digest).read_bytes()
    except FileNotFoundError:
        raise NotFoundError("photo", digest) from None


def copy_photos(database: Path, to: Path) -> int:
    """Copy those that are not there yet into the side folder of a copy; return how many."""
    copied = 0
    for path in sorted(folder_of(database).glob("*/*.jpg")):
        target = _path(to, path.stem)
        if not target.exists():
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(path, target)
            copied += 1
    return copied


def _path(database: Path, digest: str) -> Path:
    return folder_of(database) / digest[:2] / f"{digest}.jpg"
