"""Accessories as CSV: a list from a spreadsheet in, the job's accessories out.

The same list that goes out comes in again: *only while* names another row of the list, function
wires are one cell (``pattern:high:float:ground:diode; dim:low``).
"""

from __future__ import annotations

import csv
import io
from typing import Any

from pydantic import ValidationError

from ready_trail.core.edits import AccessoryDraft, AddAccessories
from ready_trail.core.job import Accessory, InputWire, Job, Output, Switch
from ready_trail.core.job.accessory import Mode
from ready_trail.core.job.plain import plain_errors
from ready_trail.formats.cells import guarded, plain
from ready_trail.formats.errors import FileRefusedError

PLAIN_COLUMNS = (
    "name", "watts", "amps", "at_v", "low_v", "high_v", "quantity", "model", "duty", "drop_class",
    "inrush_x", "inrush_s", "fuse_max_a", "min_v", "idle_a", "standby_ma", "own_contactor",
    "tail_m", "tail_end", "memory_wire", "hazard", "one_at_a_time", "own_feed", "kit", "lead",
    "lead_minus", "lead_bears_a", "torque_nm", "note",
)  # fmt: skip
USE_COLUMNS = (
    "key", "lights", "signal", "also", "unit", "unit_most_a", "engine_only", "switch", "throw",
)  # fmt: skip
SWITCH_COLUMNS = ("switch_a", "momentary", "guarded", "throws")
OTHER_COLUMNS = ("only_while", "inputs", "modes", "outputs")
COLUMNS = (*PLAIN_COLUMNS, *USE_COLUMNS, *SWITCH_COLUMNS, *OTHER_COLUMNS)
ROWS_MOST = 200
CELL_MOST = 2_000


def read_accessories(data: bytes) -> AddAccessories:
    """Return the edit that adds a CSV file's accessories.

    Raises FileRefusedError with row and column.
    """
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileRefusedError("", "the file is not UTF-8 text") from error
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    first = text.split("\n", 1)[0]
    separator = ";" if first.count(";") > first.count(",") else ","
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=separator))
    except csv.Error as error:
        raise FileRefusedError("", f"this is not a CSV list: {error}") from error
    header = [name.strip() for name in rows[0]] if rows else []
    _check_header(header)
    drafts: list[AccessoryDraft] = []
    switches: dict[str, Switch] = {}
    waits: list[tuple[int, str, int]] = []
    for number, cells in enumerate(rows[1:], start=2):
        if not any(cell.strip() for cell in cells):
            continue
        if len(drafts) >= ROWS_MOST:
            raise FileRefusedError(f"row {number}", f"a list has {ROWS_MOST} accessories at most")
        if len(cells) != len(header):
            raise FileRefusedError(f"row {number}", "it has more or fewer cells than the first row")
        row = {k: plain(v.strip()) for k, v in zip(header, cells, strict=True) if v.strip()}
        long = next((k for k, v in row.items() if len(v) > CELL_MOST), None)
        if long:
            raise FileRefusedError(f"row {number}, {long}", f"at most {CELL_MOST} characters")
        if row.get("only_while"):
            waits.append((len(drafts), row["only_while"], number))
        draft, switch = _draft(row, number)
        drafts.append(draft)
        if switch is not None:
            switches.setdefault(switch.name, switch)
    if not drafts:
        raise FileRefusedError("row 2", "there is no accessory in this list")
    return AddAccessories(accessories=tuple(drafts), switches=tuple(switches.values()),
                          waits=_waits(waits, drafts))  # fmt: skip


def write_accessories(job: Job) -> str:
    """Return the job's accessories as a list that can be read again."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\r\n")
    writer.writeheader()
    names = {c.id: job.accessory(c.accessory_ids[0]).name for c in job.circuits if c.accessory_ids}
    for accessory in job.accessories:
        row: dict[str, Any] = {name: getattr(accessory, name) for name in PLAIN_COLUMNS}
        row |= {name: getattr(accessory.use, name) for name in USE_COLUMNS}
        switch = job.switch(accessory.use.switch) if accessory.use.switch else None
        if switch is not None:
            row |= {"switch_a": switch.rating_a, "momentary": switch.momentary,
                    "guarded": switch.guarded, "throws": switch.throws}  # fmt: skip
        row["only_while"] = names.get(accessory.use.while_on, "")
        row["inputs"] = "; ".join(_input_words(wire) for wire in accessory.inputs)
        row["modes"] = "; ".join(_mode_words(mode) for mode in accessory.modes)
        row["outputs"] = "; ".join(_output_words(accessory, o) for o in accessory.outputs)
        writer.writerow({k: guarded(v) for k, v in row.items()})
    return out.getvalue()


def _check_header(header: list[str]) -> None:
    unknown = [name for name in header if name not in COLUMNS]
    if unknown or "name" not in header or not {"watts", "amps"} & set(header):
        what = f"unknown column {unknown[0][:40]!r}" if unknown else (
            "name and watts or amps are needed"
        )  # fmt: skip
        raise FileRefusedError("row 1", f"{what}; the columns are {', '.join(COLUMNS)}")
    if len(set(header)) != len(header):
        raise FileRefusedError("row 1", "a column stands twice")


def _draft(row: dict[str, str], number: int) -> tuple[AccessoryDraft, Switch | None]:
    cells = {k: _tidy(v) for k, v in row.items() if k not in OTHER_COLUMNS}
    use = {k: cells.pop(k) for k in USE_COLUMNS if k in cells}
    stated = {k: cells.pop(k) for k in SWITCH_COLUMNS if k in cells}
    document: dict[str, Any] = {**cells, "name": cells.get("name", ""), "use": use}
    try:
        if row.get("inputs"):
            document["inputs"] = [_input(part) for part in row["inputs"].split(";") if part.strip()]
        if row.get("modes"):
            document["modes"] = [_mode(part) for part in row["modes"].split(";") if part.strip()]
        if row.get("outputs"):
            measure = "watts" if "watts" in cells else "amps"
            document["outputs"] = [_output(part, measure) for part in row["outputs"].split(";")
                                   if part.strip()]  # fmt: skip
        draft = AccessoryDraft.model_validate(document)
        switch = None
        if draft.use.switch:
            if "switch_a" in stated:
                stated["rating_a"] = stated.pop("switch_a")
            switch = Switch.model_validate({"name": draft.use.switch, **stated})
    except ValidationError as error:
        path, message = next(iter(plain_errors(error).items()))
        column = {"rating_a": "switch_a"}.get(path, path.removeprefix("use."))
        got = f" (it says {row[column][:60]!r})" if row.get(column) else ""
        raise FileRefusedError(f"row {number}, {column}", f"{message}{got}") from error
    return draft, switch


def _waits(
    waits: list[tuple[int, str, int]], drafts: list[AccessoryDraft]
) -> tuple[tuple[int, int], ...]:
    names = {draft.name: at for at, draft in reversed(list(enumerate(drafts)))}
    found = []
    for at, name, number in waits:
        if name not in names:
            raise FileRefusedError(
                f"row {number}, only_while", f"no row of this list is named {name[:60]!r}"
            )
        found.append((at, names[name]))
    return tuple(found)


def _output_words(accessory: Accessory, output: Output) -> str:
    value = output.watts if accessory.watts is not None else output.amps
    parts = [output.name, f"{value:g}", output.lead, "proved" if output.proved else ""]
    return ":".join(parts).rstrip(":")


def _output(text: str, measure: str) -> dict[str, Any]:
    name, value, lead, proved = [*(part.strip() for part in text.split(":")), "", "", ""][:4]
    return {"name": name, measure: _tidy(value), "lead": lead, "proved": proved == "proved"}


def _mode_words(mode: Mode) -> str:
    seconds = "" if mode.seconds is None else f"{mode.seconds:g}"
    return ":".join([mode.name, " + ".join(mode.wires), mode.how, seconds]).rstrip(":")


def _mode(text: str) -> dict[str, Any]:
    name, wires, how, seconds = [*(part.strip() for part in text.split(":")), "", "", "", ""][:4]
    parts = [w.strip() for w in wires.split("+") if w.strip()]
    document: dict[str, Any] = {"name": name, "how": how or "hold", "wires": parts}
    return {**document, "seconds": _tidy(seconds)} if seconds else document


def _input_words(wire: InputWire) -> str:
    parts = [wire.name, wire.active]
    parts += ["float"] if wire.must_float else []
    parts += [wire.rests] if wire.rests != "open" else []
    parts += ["diode"] if wire.diode else []
    parts += ["backwards"] if wire.backwards else []
    parts += ["cap"] if wire.ends == "cap" else []
    parts += [f"signal {wire.at}"] if wire.ends == "signal" else []
    parts += [f"lead {wire.lead}"] if wire.lead else []
    return ":".join(parts)


def _input(text: str) -> dict[str, Any]:
    """One function wire; where it ends at a switch or another accessory is not in the list."""
    name, *flags = (part.strip() for part in text.split(":"))
    signal = next((f.removeprefix("signal ") for f in flags if f.startswith("signal ")), "")
    return {
        "name": name,
        "active": "low" if "low" in flags else "high",
        "must_float": "float" in flags,
        "rests": next((f for f in flags if f in ("ground", "supply")), "open"),
        "diode": "diode" in flags,
        "backwards": "backwards" in flags,
        "ends": "cap" if "cap" in flags else ("signal" if signal else "controller"),
        "at": signal,
        "lead": next((f.removeprefix("lead ") for f in flags if f.startswith("lead ")), ""),
    }


def _tidy(value: str) -> str:
    number = value.replace(",", ".", 1)
    return number if number.replace(".", "", 1).lstrip("-").isdigit() else value
