"""Property tests draw the same examples on every run; `make search` draws new ones."""

from __future__ import annotations

from hypothesis import settings

settings.register_profile("same", derandomize=True)
settings.register_profile("search", derandomize=False, print_blob=True)
settings.load_profile("same")
