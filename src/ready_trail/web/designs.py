"""The designs of jobs, as all requests share them: each made once, however many ask for it."""

from __future__ import annotations

import hashlib
import logging
from collections import OrderedDict
from concurrent.futures import Future
from threading import Lock

from ready_trail.core.datasheet import Figure, catalogue_with
from ready_trail.core.design import Design, design
from ready_trail.core.job import Job

Figures = tuple[Figure, ...]

_KEPT = 24
"""Designs that are kept; one of the demo job takes about 1.2 MB."""

_designs: OrderedDict[bytes, Future[Design]] = OrderedDict()
_lock = Lock()
_log = logging.getLogger("ready_trail")


def digest_of(job: Job, figures: Figures) -> bytes:
    """Name everything that a design is made from, in a few bytes."""
    text = f"{job.model_dump_json()}\n{figures!r}"
    return hashlib.blake2b(text.encode(), digest_size=16).digest()


def designed(job: Job, figures: Figures) -> Design:
    """Return the design of a job with the shelf's figures; who asks while it is made waits.

    Raises what ``design`` raises: to everybody who waited, and it is tried again by the next.
    """
    key = digest_of(job, figures)
    with _lock:
        known = _designs.get(key)
        if known is None:
            found = _designs[key] = Future()
            while len(_designs) > _KEPT:
                _designs.popitem(last=False)
        else:
            _designs.move_to_end(key)
    if known is not None:
        return known.result()
    try:
        found.set_result(design(job, catalogue_with(figures)))
    except BaseException as error:
        with _lock:
            _designs.pop(key, None)
        found.set_exception(error)
        raise
    return found.result()


def designed_or_bare(job: Job, figures: Figures) -> tuple[Design, str]:
    """Return the design of a job, or of its bare vehicle with what went wrong.

    A stored job that cannot be designed must never lock anybody out of undo and history.
    """
    try:
        return designed(job, figures), ""
    except Exception as error:
        _log.exception("a stored job cannot be designed")
        bare = job.model_copy(
            update={
                "circuits": (),
                "accessories": (),
                "points": (),
                "switches": (),
                "layout": None,
                "signals": (),
            }
        )
        return design(bare, catalogue_with(figures)), f"This job cannot be designed: {error}"
