"""Edits: a bought kit and its leads; a circuit recorded as it was found."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal, cast

from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.conductors import WireKind, WireSystem, sold_as
from ready_trail.core.edits.base import rebuilt, with_circuit
from ready_trail.core.edits.circuit import CircuitEdit
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import mapping, rows
from ready_trail.core.job.circuit import HeldChoices
from ready_trail.core.job.document import Job
from ready_trail.core.job.kit import Found, Kit
from ready_trail.core.job.vehicle import HouseRules

_HELD = ("size", "fuse_a", "family", "relay", "colour", "insulation_c")


def _held_by(found: Found, held: HeldChoices) -> list[str]:
    """Names of the choices that a record holds."""
    return [
        n for n in _HELD if getattr(found, n) is not None and getattr(held, n) == getattr(found, n)
    ]


def found_under(found: Found, before: HouseRules, now: HouseRules) -> Found:
    """Return a record whose size stays what it is when the house's kind of wire becomes another.

    It names its own only where that is not the house's.
    """
    system = found.system or before.system
    sold = found.wire_kind or before.wire_kind
    return rebuilt(
        found,
        system=system if found.size and system != now.system else None,
        wire_kind=sold if found.size and sold != now.wire_kind else None,
    )


def typed_leads(kit: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Return the rows of a kit's form in which something was typed."""
    wanted = ("name", "length_m", "fuse_a")
    return [row for row in rows(kit.get("leads")) if any(row.get(name) for name in wanted)]


def _with_wire(row: Mapping[str, Any], path: str, kind: str) -> dict[str, Any]:
    """What was typed, its wire as the list names it ("awg 14", "metric 2.5") as system and size.
    ``kind`` is how it is sold where that was not typed.
    """
    system, _, size = str(row.get("wire", "")).partition(" ")
    told = cast(WireKind, row.get("wire_kind") or kind)
    sold = sold_as(cast(WireSystem, system), told)
    known = load_catalogue().wires_by_kind.get((system, sold), ())
    if size and size not in {c.size for c in known}:
        raise EditRefusedError(f"{path}.wire", "It is not sold like that: pick another wire.")
    said = {"system": system, "size": size} if size else {}
    return {**{name: value for name, value in row.items() if name != "wire"}, **said}


class SetKit(CircuitEdit):
    """State a bought harness for a circuit, or take it away again."""

    kind: Literal["set_kit"] = "set_kit"
    kit: Kit | None = None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Leave out rows in which nothing was typed; no row at all takes the kit away."""
        kit = mapping(typed.get("kit"))
        leads = [
            _with_wire(r, f"kit.leads.{at}", "copper") for at, r in enumerate(typed_leads(kit))
        ]
        return {**typed, "kit": {**kit, "leads": leads} if leads else None}

    def apply(self, job: Job) -> Job:
        """Return the job with the kit. Refused where the circuit was recorded as found."""
        circuit = self.circuit(job)
        if self.kit is not None and circuit.found is not None:
            raise EditRefusedError("kit", "this circuit is there already; a kit is for a new one")
        kit = self.kit
        if kit is not None:
            others = {c.id for c in job.circuits} - {circuit.id}
            kit = rebuilt(kit, also=tuple(i for i in dict.fromkeys(kit.also) if i in others))
        return with_circuit(job, circuit, kit=kit)

    def title(self, job: Job) -> str:
        """Say for which circuit."""
        name = self.circuit(job).name
        if self.kit is None:
            return f"Take the kit from {name}"
        leads = len(self.kit.leads)
        return f"State the kit of {name}: {leads} lead{'s' if leads > 1 else ''}"


class RecordFound(CircuitEdit):
    """Record a circuit as it was found: each thing that is known is held, and checked."""

    kind: Literal["record_found"] = "record_found"
    found: Found

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Read the wire as its list names it: "awg 14", "metric 2.5", or nothing."""
        found = _with_wire(mapping(typed.get("found")), "found", job.rules.wire_kind)
        return {**typed, "found": {"size": None, "system": None, **found}}

    def apply(self, job: Job) -> Job:
        """Return the job with the record, and what it says held."""
        circuit = self.circuit(job)
        if circuit.kit is not None:
            raise EditRefusedError("form", "this circuit has a kit; take that away first")
        stated = found_under(self.found, job.rules, job.rules)
        known = {name: getattr(stated, name) for name in _HELD}
        held = circuit.held
        if circuit.found is not None:  # what an earlier record held is let go with it
            held = rebuilt(held, **dict.fromkeys(_held_by(circuit.found, held)))
        held = rebuilt(held, **{n: v for n, v in known.items() if v is not None})
        return with_circuit(job, circuit, found=stated, held=held)

    def title(self, job: Job) -> str:
        """Say which circuit."""
        return f"Record {self.circuit(job).name} as found"


class ForgetFound(CircuitEdit):
    """Treat a circuit as new again: what was found is let go."""

    kind: Literal["forget_found"] = "forget_found"

    def apply(self, job: Job) -> Job:
        """Return the job without the record; choices held by it follow again."""
        circuit = self.circuit(job)
        if circuit.found is None:
            raise EditRefusedError("circuit_id", "this circuit was not recorded as found")
        same = _held_by(circuit.found, circuit.held)
        held: HeldChoices = rebuilt(circuit.held, **dict.fromkeys(same))
        return with_circuit(job, circuit, found=None, held=held)

    def title(self, job: Job) -> str:
        """Say which circuit."""
        return f"Build {self.circuit(job).name} anew"
