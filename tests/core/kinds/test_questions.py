"""Nobody outside the kinds compares a kind's name, or reads meaning out of words."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

SOURCE = Path(__file__).parents[3] / "src" / "ready_trail"
ANSWERED_BY = ("core/kinds/", "templates/drawing/symbols.html")
"""Where kinds answer, and where they are drawn."""
MOST = 15
"""Falls, and never rises: what is left are kinds of other things than devices and points."""

_WORDS = {"label", "ref", "note", "detail"}
_READS = {
    "startswith",
    "endswith",
    "split",
    "rsplit",
    "partition",
    "rpartition",
    "removeprefix",
    "removesuffix",
}
_IN_TEMPLATE = re.compile(r"\bkind\s*(?:==|!=|in\b|not in\b)")


def questions() -> Iterator[str]:
    for path in sorted(SOURCE.rglob("*")):
        name = str(path.relative_to(SOURCE))
        if name.startswith(ANSWERED_BY):
            continue
        if path.suffix == ".html":
            for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
                yield from (f"{name}:{number}" for _ in _IN_TEMPLATE.findall(line))
        elif path.suffix == ".py":
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if _compares_a_kind(node) or _reads_words(node):
                    yield f"{name}:{getattr(node, 'lineno', 0)}"


def _compares_a_kind(node: ast.AST) -> bool:
    return isinstance(node, ast.Compare) and any(
        _called(side) == "kind" and not _is_own(side) for side in (node.left, *node.comparators)
    )


def _is_own(node: ast.AST) -> bool:
    """Whether a thing answers for its own kind."""
    return isinstance(node, ast.Attribute) and _called(node.value) == "self"


def _reads_words(node: ast.AST) -> bool:
    return (
        isinstance(node, ast.Call)
        and isinstance(node.func, ast.Attribute)
        and node.func.attr in _READS
        and _called(node.func.value) in _WORDS
    )


def _called(node: ast.AST) -> str:
    if isinstance(node, ast.Attribute):
        return node.attr
    return node.id if isinstance(node, ast.Name) else ""


def test_kinds_are_asked_not_compared() -> None:
    found = list(questions())
    assert len(found) <= MOST, "\n".join(found)
