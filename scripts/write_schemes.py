"""Write the book of schemes: docs/schemes.md with one picture each, from their small jobs."""

from pathlib import Path

from ready_trail.core.asking import ask_of
from ready_trail.core.catalogue import load_catalogue
from ready_trail.formats.rendering import environment
from ready_trail.formats.scheme_book import Entry, entries
from ready_trail.web.pages.sheet import Sheet, sheet_of

FOLDER = Path(__file__).parent.parent / "docs"
CSS = (
    Path(__file__).parent.parent / "src" / "ready_trail" / "web" / "static" / "css" / "drawing.css"
)
HEAD = """# Schemes

How a circuit can be switched. Every page here is written by `make schemes` from a small job in
`src/ready_trail/data/schemes`: the drawing, the pins and the solved states are the program's own.
The same pages are in the application under *Schemes*.
"""


def book() -> dict[str, str]:
    """Return every file of the book by its path under docs."""
    pages = [HEAD]
    files: dict[str, str] = {}
    template = environment().get_template("drawing/scheme_file.svg.html")
    css = CSS.read_text(encoding="utf-8")
    for entry in entries():
        sheet = sheet_of(entry.circuit, entry.job, load_catalogue())
        files[f"schemes/{entry.key}.svg"] = template.render(sheet=sheet, entry=entry, css=css)
        pages.append(page(entry, sheet))
    files["schemes.md"] = "\n".join(pages)
    return files


def page(entry: Entry, sheet: Sheet) -> str:
    """Return one scheme in words and tables."""
    made = entry.circuit
    ask = ask_of(entry.job.routed, entry.job.plan.tree, made.circuit, made.current_a)
    lines = [
        f"## {entry.title}",
        "",
        f"{entry.when[:1].upper()}{entry.when[1:]}.",
        "",
        f"![{entry.title}](schemes/{entry.key}.svg)",
        "",
    ]
    lines += [f"- {text}" for text in made.scheme.cautions(ask)]
    if sheet.pins:
        lines += ["", "| pin | is | wire | goes to |", "|---|---|---|---|"]
        lines += [f"| {p.terminal} | {p.role} | {p.wire} | {p.goes_to} |" for p in sheet.pins]
    if sheet.truth:
        lines += [
            "",
            f"| | {' | '.join(sheet.key_words)} |",
            f"|---|{'---|' * len(sheet.key_words)}",
        ]
        lines += [f"| {row.label} | {' | '.join(row.marks)} |" for row in sheet.truth]
    return "\n".join([*lines, ""])


if __name__ == "__main__":
    (FOLDER / "schemes").mkdir(exist_ok=True)
    for name, text in book().items():
        (FOLDER / name).write_text(text, encoding="utf-8")
