"""Accessories as CSV: a list from a spreadsheet in, the job's accessories out."""

from __future__ import annotations

import csv
import io

from pydantic import ValidationError

from ready_trail.core.edits import AccessoryDraft
from ready_trail.core.job import Job
from ready_trail.core.job.plain import plain_errors
from ready_trail.formats.errors import FileRefusedError

PLAIN_COLUMNS = (
    "name", "watts", "amps", "at_v", "quantity", "model", "duty", "drop_class", "inrush_x",
    "inrush_s", "fuse_max_a", "min_v", "tail_m", "tail_end", "note",
)  # fmt: skip
USE_COLUMNS = ("key", "lights", "engine_only", "switch", "switch_a", "momentary", "guarded")
COLUMNS = (*PLAIN_COLUMNS, *USE_COLUMNS)
ROWS_MOST = 200


def read_accessories(data: bytes) -> tuple[AccessoryDraft, ...]:
    """Return the accessories of a CSV file. Raises FileRefusedError with row and column."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileRefusedError("", "the file is not UTF-8 text") from error
    separator = (
        ";" if text.split("\n", 1)[0].count(";") > text.split("\n", 1)[0].count(",") else ","
    )
    reader = csv.DictReader(io.StringIO(text), delimiter=separator)
    header = [name.strip() for name in reader.fieldnames or []]
    reader.fieldnames = header
    unknown = [name for name in header if name not in COLUMNS]
    if unknown or "name" not in header or not {"watts", "amps"} & set(header):
        what = f"unknown column {unknown[0]!r}" if unknown else "name and watts or amps are needed"
        raise FileRefusedError("row 1", f"{what}; the columns are {', '.join(COLUMNS)}")
    drafts: list[AccessoryDraft] = []
    for number, row in enumerate(reader, start=2):
        if len(drafts) >= ROWS_MOST:
            raise FileRefusedError(f"row {number}", f"a list has {ROWS_MOST} accessories at most")
        if any((value or "").strip() for value in row.values() if isinstance(value, str)):
            drafts.append(_draft(row, number))
    if not drafts:
        raise FileRefusedError("row 2", "there is no accessory in this list")
    return tuple(drafts)


def write_accessories(job: Job) -> str:
    """Return the job's accessories as a list that can be read again."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\r\n")
    writer.writeheader()
    for accessory in job.accessories:
        plain = {name: getattr(accessory, name) for name in PLAIN_COLUMNS}
        use = {name: getattr(accessory.use, name) for name in USE_COLUMNS}
        row = {k: "" if v is None else v for k, v in {**plain, **use}.items()}
        row["name"] = _no_formula(str(row["name"]))
        writer.writerow(row)
    return out.getvalue()


def _draft(row: dict[str, str], number: int) -> AccessoryDraft:
    if None in row or None in row.values():
        raise FileRefusedError(f"row {number}", "it has more or fewer cells than the first row")
    cells = {k: _tidy(v) for k, v in row.items() if v.strip()}
    use = {k: cells.pop(k) for k in USE_COLUMNS if k in cells}
    cells["name"] = cells.get("name", "").removeprefix("'")
    try:
        return AccessoryDraft.model_validate({**cells, "use": use})
    except ValidationError as error:
        path, message = next(iter(plain_errors(error).items()))
        column = path.removeprefix("use.")
        got = f" (it says {row[column]!r})" if row.get(column) else ""
        raise FileRefusedError(f"row {number}, {column}", f"{message}{got}") from error


def _tidy(value: str) -> str:
    value = value.strip()
    number = value.replace(",", ".", 1)
    return number if number.replace(".", "", 1).lstrip("-").isdigit() else value


def _no_formula(text: str) -> str:
    return f"'{text}" if text.startswith(("=", "+", "-", "@")) else text
