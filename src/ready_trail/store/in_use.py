"""A lock beside the database: who serves it shares it, who puts another in its place is alone."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from ready_trail.store.errors import DatabaseUnusableError

if os.name == "posix":
    import fcntl

    def _lock(file: IO[bytes], *, alone: bool) -> None:
        fcntl.flock(file, (fcntl.LOCK_EX if alone else fcntl.LOCK_SH) | fcntl.LOCK_NB)
else:  # there no open file can be replaced anyway

    def _lock(file: IO[bytes], *, alone: bool) -> None:
        return None


@contextmanager
def in_use(path: Path, *, alone: bool = False) -> Iterator[None]:
    """Hold a database while it is served, or ``alone`` while another takes its place.

    Whatever ends the process lets it go. Raises DatabaseUnusableError where somebody holds it
    otherwise.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        file = path.with_name(f"{path.name}.lock").open("ab")
    except OSError as error:
        raise DatabaseUnusableError(
            f"cannot use {path} as the database: {error.strerror}"
        ) from error
    try:
        try:
            _lock(file, alone=alone)
        except OSError as error:
            words = "is in use: stop the server first" if alone else "is being restored just now"
            raise DatabaseUnusableError(f"{path} {words}") from error
        yield
    finally:
        file.close()
