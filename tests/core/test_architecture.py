"""Rules of the architecture that an import check cannot see."""

from __future__ import annotations

import re
from pathlib import Path

import ready_trail
from ready_trail.core.schemes import ALL

SOURCE = Path(ready_trail.__file__).parent
KEYS = "|".join(re.escape(scheme.key) for scheme in ALL)
ASKS = re.compile(rf"""(==|!=|\bin\b)\s*[\[({{]?\s*["'](?:{KEYS})["']""")
WORDS = {"direct", "channel", "winch", "interlock"}  # also words of the trade


def test_nobody_outside_the_schemes_asks_which_scheme_it_is() -> None:
    """A scheme answers for itself; a question after its key is a special case in hiding."""
    found = []
    for path in [*SOURCE.rglob("*.py"), *SOURCE.rglob("*.html")]:
        if "schemes" in path.parts:
            continue
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), start=1):
            asked = ASKS.search(line)
            word = asked.group(0).strip("\"' =!in[({") if asked else ""
            if asked and (word not in WORDS or "scheme" in line):
                found.append(f"{path.relative_to(SOURCE)}:{number}: {line.strip()}")
    assert found == []


def test_no_inline_script_or_style_in_templates() -> None:
    for path in SOURCE.rglob("*.html"):
        text = path.read_text(encoding="utf-8")
        assert not re.search(r"\son(click|change|input|submit|load)=", text), path
        assert not re.search(r'\sstyle="', text), path


def test_a_change_of_a_template_can_be_read() -> None:
    """One element a line; drawings have long figures in their lines."""
    long = [
        f"{path.name}:{number}"
        for folder in ("pages", "partials", "macros")
        for path in (SOURCE / "templates" / folder).glob("*.html")
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), start=1)
        if len(line) > 140
    ]
    assert long == []
