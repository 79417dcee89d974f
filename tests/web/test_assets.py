"""A page asks for one style file and one script; both are whole, and kept for good."""

from __future__ import annotations

import re

from starlette.testclient import TestClient

from ready_trail.web.assets import _WHOLE, STATIC


def test_a_page_asks_for_one_style_file_and_one_script_and_its_own(client: TestClient) -> None:
    for path, scripts in (
        ("/", 1),
        ("/jobs/1/review", 1),
        ("/jobs/1/supply", 2),
        ("/jobs/1/drawing", 2),
    ):
        text = client.get(path).text
        asked = re.findall(r'(?:href|src)="(/static/[^"]+\.(?:css|js)[^"]*)"', text)
        assert len([a for a in asked if ".css" in a]) == 1, path
        assert len([a for a in asked if ".js" in a]) == scripts, path
        for address in asked:
            answer = client.get(address)
            assert answer.status_code == 200, address
            assert answer.headers["cache-control"] == "max-age=31536000, immutable"


def test_a_bundle_has_every_part_and_its_fonts_are_found(client: TestClient) -> None:
    for name, parts in _WHOLE.items():
        text = client.get(f"/static/{name}").text
        for part in parts:
            last = (STATIC / part).read_text(encoding="utf-8").strip().splitlines()[-1]
            assert last in text, part
        for address in re.findall(r'url\("(/static/[^"]+)"\)', text):
            assert client.get(address).status_code == 200, address
    assert client.get("/static/page.txt").status_code == 404
