"""Write docs/findings.md: every finding with its rule and its source, from the register."""

from pathlib import Path

from ready_trail.core.catalogue import load_catalogue

PATH = Path(__file__).parent.parent / "docs" / "findings.md"
HEAD = """# Findings

What the review checks by itself. This page is written by `make findings` from the register that
the program itself reads, `src/ready_trail/data/tables/findings.csv`. A *stop* may burn, hurt or
strand; a *caution* may work badly or wear out; a *note* is worth knowing. Each shows what was found
against what is allowed, where it sits, and ways out with their effect; it may be accepted with a
written reason, which is kept and printed.
"""


def text() -> str:
    """Return the page."""
    rules = load_catalogue().finding_rules.values()
    parts = [HEAD]
    for area in dict.fromkeys(rule.area for rule in rules):
        parts.append(f"## {area[:1].upper()}{area[1:]}\n")
        parts.append("| code | severity | rule | source |\n|---|---|---|---|")
        parts += [
            f"| `{r.code}` | {r.severity} | {r.rule} | {r.source} |"
            for r in sorted(rules, key=lambda r: r.code)
            if r.area == area
        ]
        parts.append("")
    return "\n".join(parts)


if __name__ == "__main__":
    PATH.write_text(text(), encoding="utf-8")
