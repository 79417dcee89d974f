"""Accessories as CSV: a list from a spreadsheet in, the job's accessories out.

The same list that goes out comes in again and makes the same accessories, switches and
interlocks. A line names another by its name, or as ``row 5`` where two have one name; an output
with a circuit of its own is a line of its own, which names its accessory in *output_of*. Function
wires are one cell (``pattern:high:float:ground:diode; dim:low``).
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from ready_trail.core.edits import AccessoryDraft, AddAccessories
from ready_trail.core.edits.accessory_list import (
    LIST_MOST,
    ChannelLine,
    OutputLine,
    TieLine,
    WaitLine,
)
from ready_trail.core.job import Accessory, Circuit, Job, Switch, Use
from ready_trail.core.job.plain import plain_errors
from ready_trail.core.measures import as_figure
from ready_trail.formats import accessory_cells as cells_of
from ready_trail.formats.cells import guarded, plain
from ready_trail.formats.errors import FileRefusedError

PLAIN_COLUMNS = tuple(
    name
    for name in Accessory.model_fields
    if name not in ("id", "use", "outputs", "inputs", "modes", "posts")
)
USE_COLUMNS = tuple(name for name in Use.model_fields if name not in ("while_on", "channel"))
"""What an accessory's own fields and its use state, each a column of that name."""

SWITCH_COLUMNS = {
    "switch_a": "rating_a",
    "momentary": "momentary",
    "guarded": "guarded",
    "throws": "throws",
    "surge_a": "surge_a",
    "lamp": "lamp",
}
"""Columns of a switch, and the field of each."""

OTHER_COLUMNS = (
    "only_while",
    "channel",
    "with",
    "output_of",
    "inputs",
    "modes",
    "outputs",
    "posts",
)
COLUMNS = (*PLAIN_COLUMNS, *USE_COLUMNS, *SWITCH_COLUMNS, *OTHER_COLUMNS)
CELL_MOST = 2_000
_ROWS_MOST = 4 * LIST_MOST


@dataclass(slots=True)
class _List:
    """The lines of a file as far as they were read."""

    drafts: list[AccessoryDraft] = field(default_factory=list)
    numbers: list[int] = field(default_factory=list)
    switches: dict[str, tuple[bool, Switch]] = field(default_factory=dict)
    outputs: list[OutputLine] = field(default_factory=list)
    rows: list[tuple[int, int, str, dict[str, str]]] = field(default_factory=list)
    """Number of the row, place of its accessory, its output or an empty text, its cells."""

    def place_of(self, name: str, row: int, column: str) -> int:
        """Place of the accessory that a cell names. Raises FileRefusedError."""
        digits = name.removeprefix("row ")
        if digits != name and digits.isascii() and digits.isdigit():
            wanted = int(digits[:9])
            found = [at for at, number in enumerate(self.numbers) if number == wanted]
        else:
            found = [at for at, draft in enumerate(self.drafts) if draft.name == name]
        if len(found) > 1:
            words = f"several rows are named {name[:60]!r}: write which, as 'row 5'"
            raise FileRefusedError(f"row {row}, {column}", words)
        if not found:
            words = f"no row of this list is named {name[:60]!r}"
            raise FileRefusedError(f"row {row}, {column}", words)
        return found[0]

    def keep_switch(self, switch: Switch | None, is_stated: bool) -> None:
        """Keep what a row says of its switch; the first that states something counts."""
        if switch is not None and not self.switches.get(switch.name, (False,))[0]:
            self.switches[switch.name] = (is_stated, switch)


def read_accessories(data: bytes) -> AddAccessories:
    """Return the edit that adds a CSV file's accessories.

    Raises FileRefusedError with row and column.
    """
    found = _List()
    for number, row in _rows(data):
        if row.get("output_of"):
            _take_output(found, row, number)
        else:
            _take_accessory(found, row, number)
    if not found.drafts:
        raise FileRefusedError("row 2", "there is no accessory in this list")
    try:
        return AddAccessories(
            accessories=tuple(found.drafts),
            outputs=tuple(found.outputs),
            switches=tuple(switch for _, switch in found.switches.values()),
            shares=tuple(_shares(found)),
            waits=tuple(_waits(found)),
            channels=tuple(_channels(found)),
            ties=tuple(_ties(found)),
        )
    except ValidationError as error:
        words = next(iter(plain_errors(error).values()))
        raise FileRefusedError("", f"the list does not hold together: {words}") from error


def _rows(data: bytes) -> Iterator[tuple[int, dict[str, str]]]:
    """The cells that say something, by column, row by row."""
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
    said = 0
    for number, cells in enumerate(rows[1:], start=2):
        if not any(cell.strip() for cell in cells):
            continue
        said += 1
        if said > _ROWS_MOST:
            raise FileRefusedError(f"row {number}", f"a list has {_ROWS_MOST} rows at most")
        if len(cells) != len(header):
            raise FileRefusedError(f"row {number}", "it has more or fewer cells than the first row")
        row = {k: plain(v.strip()) for k, v in zip(header, cells, strict=True) if v.strip()}
        long = next((k for k, v in row.items() if len(v) > CELL_MOST), None)
        if long:
            raise FileRefusedError(f"row {number}, {long}", f"at most {CELL_MOST} characters")
        yield number, row


def _check_header(header: list[str]) -> None:
    unknown = [name for name in header if name not in COLUMNS]
    if unknown or "name" not in header or not {"watts", "amps"} & set(header):
        what = (
            f"unknown column {unknown[0][:40]!r}"
            if unknown
            else ("name and watts or amps are needed")
        )
        raise FileRefusedError("row 1", f"{what}; the columns are {', '.join(COLUMNS)}")
    if len(set(header)) != len(header):
        raise FileRefusedError("row 1", "a column stands twice")


def _take_accessory(found: _List, row: dict[str, str], number: int) -> None:
    if len(found.drafts) >= LIST_MOST:
        raise FileRefusedError(f"row {number}", f"a list has {LIST_MOST} accessories at most")
    cells = {k: as_figure(k, v) for k, v in row.items() if k not in OTHER_COLUMNS}
    use = {k: cells.pop(k) for k in USE_COLUMNS if k in cells}
    stated = _switch_cells(cells)
    document: dict[str, Any] = {**cells, "name": row.get("name", ""), "use": use}
    try:
        if row.get("inputs"):
            document["inputs"] = [cells_of.input_wire(p) for p in cells_of.parts(row["inputs"])]
        if row.get("posts"):
            document["posts"] = [cells_of.post(p) for p in cells_of.parts(row["posts"])]
        if row.get("modes"):
            document["modes"] = [cells_of.mode(p) for p in cells_of.parts(row["modes"])]
        if row.get("outputs"):
            measure = "watts" if "watts" in cells else "amps"
            document["outputs"] = [
                cells_of.output(p, measure) for p in cells_of.parts(row["outputs"])
            ]
        draft = AccessoryDraft.model_validate(document)
        found.keep_switch(_switch(draft.use, stated), bool(stated))
    except ValidationError as error:
        raise _refused(error, row, number) from error
    found.rows.append((number, len(found.drafts), "", row))
    found.drafts.append(draft)
    found.numbers.append(number)


def _take_output(found: _List, row: dict[str, str], number: int) -> None:
    """A line that says when one output of an accessory above is on."""
    at = found.place_of(row["output_of"], number, "output_of")
    name = row.get("name", "")
    if name not in (o.name for o in found.drafts[at].outputs):
        raise FileRefusedError(
            f"row {number}, name", f"{found.drafts[at].name} has no output {name[:60]!r}"
        )
    cells = {k: as_figure(k, v) for k, v in row.items()}
    stated = _switch_cells(cells)
    try:
        use = Use.model_validate({k: cells[k] for k in USE_COLUMNS if k in cells})
        found.keep_switch(_switch(use, stated), bool(stated))
    except ValidationError as error:
        raise _refused(error, row, number) from error
    found.outputs.append(OutputLine(at=at, output=name, use=use))
    found.rows.append((number, at, name, row))


def _switch_cells(cells: dict[str, str]) -> dict[str, str]:
    """What a row says of its switch, taken out of its cells."""
    return {name: cells.pop(k) for k, name in SWITCH_COLUMNS.items() if k in cells}


def _switch(use: Use, stated: dict[str, str]) -> Switch | None:
    return Switch.model_validate({"name": use.switch, **stated}) if use.switch else None


def _refused(error: ValidationError, row: dict[str, str], number: int) -> FileRefusedError:
    path, message = next(iter(plain_errors(error).items()))
    column = next((k for k, v in SWITCH_COLUMNS.items() if v == path), path.removeprefix("use."))
    got = f" (it says {row[column][:60]!r})" if row.get(column) else ""
    return FileRefusedError(f"row {number}, {column}", f"{message}{got}")


def _waits(found: _List) -> Iterator[WaitLine]:
    for number, at, output, row in found.rows:
        if row.get("only_while"):
            name, *others = cells_of.fields(row["only_while"], "/")
            enabler = found.place_of(name, number, "only_while")
            yield WaitLine(
                at=at, output=output, enabler=enabler, enabler_output=others[0] if others else ""
            )


def _channels(found: _List) -> Iterator[ChannelLine]:
    for number, at, output, row in found.rows:
        if row.get("channel"):
            names = cells_of.fields(row["channel"], "/")
            if len(names) != 2:
                raise FileRefusedError(f"row {number}, channel", "write it as point / position")
            yield ChannelLine(at=at, output=output, point=names[0], position=names[1])


def _shares(found: _List) -> Iterator[tuple[int, int]]:
    for number, at, _, row in found.rows:
        if row.get("with"):
            yield at, found.place_of(row["with"], number, "with")


def _ties(found: _List) -> Iterator[TieLine]:
    """Function wires that end at another line's; they are read as capped, and tied at the end."""
    for number, at, output, row in found.rows:
        for part in cells_of.parts(row.get("inputs", "") if not output else ""):
            wire, other, other_wire = cells_of.tie(part)
            if other:
                yield TieLine(
                    at=at,
                    wire=wire,
                    other=found.place_of(other, number, "inputs"),
                    other_wire=other_wire,
                )


def write_accessories(job: Job) -> str:
    """Return the job's accessories as a list that can be read again."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\r\n")
    writer.writeheader()
    names = _names(job)
    for accessory in job.accessories:
        circuits = job.circuits_of(accessory.id)
        row: dict[str, Any] = {name: getattr(accessory, name) for name in PLAIN_COLUMNS}
        row |= _use_cells(job, accessory.use, names)
        row["with"] = _with(accessory, circuits, names)
        wires = (cells_of.input_words(wire, names) for wire in accessory.inputs)
        row["inputs"] = "; ".join(wires)
        row["posts"] = "; ".join(cells_of.post_words(post) for post in accessory.posts)
        row["modes"] = "; ".join(cells_of.mode_words(mode) for mode in accessory.modes)
        row["outputs"] = "; ".join(cells_of.output_words(accessory, o) for o in accessory.outputs)
        writer.writerow({k: guarded(v) for k, v in row.items()})
        for circuit in circuits:
            if circuit.output and circuit.use is not None:
                own = {"name": circuit.output, "output_of": names[accessory.id]}
                own |= _use_cells(job, circuit.use, names)
                writer.writerow({k: guarded(v) for k, v in own.items()})
    return out.getvalue()


def _names(job: Job) -> dict[str, str]:
    """What a line is named by, by its accessory's id: its name, or its row where that is not one
    line's alone.
    """
    every = [a.name for a in job.accessories]
    names, row = {}, 2
    for accessory in job.accessories:
        names[accessory.id] = accessory.name if every.count(accessory.name) == 1 else f"row {row}"
        row += 1 + sum(bool(c.output and c.use) for c in job.circuits_of(accessory.id))
    return names


def _use_cells(job: Job, use: Use, names: dict[str, str]) -> dict[str, Any]:
    row: dict[str, Any] = {name: getattr(use, name) for name in USE_COLUMNS}
    switch = job.switch(use.switch) if use.switch else None
    if switch is not None:
        row |= {column: getattr(switch, name) for column, name in SWITCH_COLUMNS.items()}
    if use.while_on:
        enabler = job.circuit(use.while_on)
        told = [cells_of.kept(names[i]) for i in enabler.accessory_ids[:1]]
        row["only_while"] = "/".join(told + [cells_of.kept(enabler.output)] * bool(enabler.output))
    if use.channel is not None:
        point = job.point(use.channel.point)
        row["channel"] = f"{cells_of.kept(point.name)}/{cells_of.kept(use.channel.position)}"
    return row


def _with(accessory: Accessory, circuits: tuple[Circuit, ...], names: dict[str, str]) -> str:
    """The line on whose circuit this one is; the first of a circuit names none."""
    hosts = circuits[0].accessory_ids if circuits else ()
    return names[hosts[0]] if hosts and hosts[0] != accessory.id else ""
