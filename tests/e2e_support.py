"""What browser tests share."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page

AXE = Path(__file__).parent / "vendor" / "axe.min.js"


def revision(page: Page, job_id: int) -> int:
    """The job's head as the API tells it."""
    return int(page.request.get(f"/api/jobs/{job_id}").json()["revision"])
