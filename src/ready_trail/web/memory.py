"""How a process that answers for long looks after its memory."""

from __future__ import annotations

import gc

from ready_trail.core.catalogue import load_catalogue


def collect_seldom() -> None:
    """Look for unused objects less often: designs are many small parts that live long, and a look
    through all of them holds every answer up for a fifth of a second.
    """
    load_catalogue()
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 30, 20)
