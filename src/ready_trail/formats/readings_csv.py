"""Readings as files: the record of a vehicle as CSV and JSON, and a meter's log read in."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from ready_trail.core.instruments import INSTRUMENTS, NotReadableError
from ready_trail.core.prove.progress import Reading
from ready_trail.core.prove.records import Test
from ready_trail.formats.cells import guarded, plain
from ready_trail.formats.errors import FileRefusedError

COLUMNS = (
    "time",
    "circuit",
    "test",
    "point",
    "setting",
    "expected",
    "instrument",
    "value",
    "unit",
    "verdict",
    "skipped",
    "source",
    "who",
    "design",
)
LOG_COLUMNS = ("time", "point", "quantity", "value", "unit")
"""What a logging meter's file has: the point as the plan of tests names it."""

ROWS_MOST = 2000
_QUANTITIES = {"v": "volts", "mv": "load", "ohm": "ohms", "ω": "ohms", "a": "clamp", "": ""}


def record_rows(
    readings: Sequence[Reading], names: Mapping[str, str]
) -> tuple[tuple[str, ...], ...]:
    """Return every reading as a row of ``COLUMNS``; ``names`` are the circuits' by their id."""
    return tuple(_row(r, names) for r in readings)


def _row(r: Reading, names: Mapping[str, str]) -> tuple[str, ...]:
    asked = (*r.asked.split("\n"), "", "", "", "")[:4]
    instrument = INSTRUMENTS.get(r.instrument)
    value = ""
    if r.value is not None and instrument is not None:
        chosen = [w for w, at in instrument.choices if at == r.value]
        value = chosen[0] if chosen else "OL" if r.value == float("inf") else f"{r.value:.6g}"
    return (
        r.made_at,
        names.get(r.circuit_id, r.circuit_id),
        r.test,
        asked[1],
        asked[2],
        asked[3],
        r.instrument,
        value,
        instrument.unit if instrument is not None else "",
        r.verdict,
        r.skipped,
        r.source,
        r.who,
        r.design,
    )


def record_csv(readings: Sequence[Reading], names: Mapping[str, str]) -> str:
    """Return the record of a vehicle as CSV."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in (COLUMNS, *record_rows(readings, names)):
        writer.writerow([guarded(cell) for cell in row])
    return out.getvalue()


def record_json(readings: Sequence[Reading], names: Mapping[str, str]) -> list[dict[str, str]]:
    """Return the record of a vehicle as objects, one a reading."""
    return [dict(zip(COLUMNS, row, strict=True)) for row in record_rows(readings, names)]


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedRow:
    """One row of a meter's log beside the test that it fits; ``why`` tells why it fits none."""

    number: int
    time: str
    point: str
    typed: str
    test: Test | None = None
    value: float | None = None
    why: str = ""


def read_log(data: bytes, tests: Sequence[Test]) -> tuple[LoggedRow, ...]:
    """Return a log's rows beside the tests that their points name: by where, title or key.

    A record that went out comes in, too. Raises FileRefusedError.
    """
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileRefusedError("file", "this is no text file") from error
    reader = csv.DictReader(io.StringIO(text))
    fields = [(f or "").strip().lower() for f in reader.fieldnames or ()]
    reader.fieldnames = fields
    if not {"time", "point", "value"} <= set(fields):
        raise FileRefusedError("file", f"columns {', '.join(LOG_COLUMNS)} are expected")
    found = []
    for number, row in enumerate(reader, start=2):
        if number > ROWS_MOST:
            raise FileRefusedError("file", f"more than {ROWS_MOST} rows are not read at once")
        found.append(
            _logged(number, {k: plain(v or "").strip() for k, v in row.items() if k}, tests)
        )
    if found and not any(r.test for r in found):
        raise FileRefusedError("file", "no row names a point of this job; is it another vehicle's?")
    return tuple(found)


def _logged(number: int, row: Mapping[str, str], tests: Sequence[Test]) -> LoggedRow:
    point, typed = row.get("point", ""), row.get("value", "")
    unit = row.get("unit", "").lower()
    instrument = _QUANTITIES.get(unit, "")
    made = LoggedRow(number=number, time=row.get("time", ""), point=point, typed=typed)
    named = [t for t in tests if row.get("test", "") == t.key] or [
        t
        for t in tests
        if point.lower() in (t.where.lower(), t.title.lower()) and instrument in ("", t.instrument)
    ]
    if not named:
        return _with(made, why="this job has no such point")
    test = next((t for t in named if t.must), named[0])
    if not _is_time(made.time):
        return _with(made, why="its time cannot be read")
    try:
        return _with(made, test=test, value=INSTRUMENTS[test.instrument].read(typed))
    except NotReadableError as error:
        return _with(made, why=f"{error}")


def _with(
    row: LoggedRow, *, test: Test | None = None, value: float | None = None, why: str = ""
) -> LoggedRow:
    return LoggedRow(
        number=row.number,
        time=row.time,
        point=row.point,
        typed=row.typed,
        test=test,
        value=value,
        why=why,
    )


def _is_time(text: str) -> bool:
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        return False
    return (at if at.tzinfo else at.replace(tzinfo=UTC)).year >= 2020
