"""The wheel, in an environment that holds nothing but what it says it needs, makes the book."""

from __future__ import annotations

import importlib.metadata as metadata
import os
import re
import subprocess
import sys
import urllib.request
import venv
from pathlib import Path

import pytest
from packaging.requirements import Requirement

ROOT = Path(__file__).parents[2]


def declared(name: str, seen: dict[str, metadata.Distribution]) -> None:
    """The distributions that one needs, with what those need, as their own lists say."""
    key = re.sub(r"[-_.]+", "-", name).lower()
    if key in seen:
        return
    found = metadata.distribution(name)
    seen[key] = found
    for text in found.requires or ():
        need = Requirement(text)
        if need.marker is None or need.marker.evaluate({"extra": ""}):
            declared(need.name, seen)


@pytest.fixture(scope="module")
def installed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A fresh environment: the wheel, and links to what it declares; its Python."""
    folder = tmp_path_factory.mktemp("wheel")
    pip = [sys.executable, "-m", "pip", "-q", "--disable-pip-version-check"]
    build = [*pip, "wheel", "--no-deps", "--no-build-isolation", "-w", str(folder), str(ROOT)]
    subprocess.run(build, check=True, timeout=600, cwd=folder)
    wheel = next(folder.glob("ready_trail-*.whl"))
    venv.create(folder / "env", with_pip=False)
    site = next((folder / "env").glob("lib/python*/site-packages"))
    subprocess.run(
        [*pip, "install", "--no-deps", "--target", str(site), str(wheel)], check=True, timeout=600
    )
    own = metadata.PathDistribution(next(site.glob("ready_trail-*.dist-info")))
    needed: dict[str, metadata.Distribution] = {}
    for text in own.requires or ():
        declared(Requirement(text).name, needed)
    for found in needed.values():
        for file in found.files or ():
            top = Path(str(file)).parts[0]
            if top != ".." and not (site / top).exists():
                (site / top).symlink_to(Path(str(found.locate_file(top))))
    return folder / "env" / "bin" / "python"


def test_it_serves_the_demo_and_makes_the_build_book(installed: Path, tmp_path: Path) -> None:
    """Nothing is installed there that the wheel's own list forgets."""
    command = [
        str(installed),
        "-I",
        "-m",
        "ready_trail",
        "demo",
        "--db",
        str(tmp_path / "t.db"),
        "--port",
        "0",
    ]
    environment = {k: v for k, v in os.environ.items() if not k.startswith("PYTHON")}
    with subprocess.Popen(
        command,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        env=environment,
        cwd=tmp_path,
    ) as server:
        try:
            assert server.stdout is not None
            line = server.stdout.readline()
            address = re.search(r"http://127\.0\.0\.1:\d+", line)
            assert address is not None, line + server.stdout.read()
            url = address[0]
            with urllib.request.urlopen(f"{url}/jobs/1/build/book.pdf", timeout=600) as answer:
                assert answer.read(5) == b"%PDF-"
        finally:
            server.terminate()
            server.wait(20)
