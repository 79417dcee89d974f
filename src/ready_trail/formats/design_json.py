"""A design as JSON, for the command line and the API."""

from __future__ import annotations

from typing import Any

from ready_trail.core.budget import ScenarioBudget
from ready_trail.core.design import CircuitDesign, Design, Finding, PointDesign
from ready_trail.core.inputs import InputReading, read_inputs
from ready_trail.core.installation import Wire
from ready_trail.core.sizing import BranchSizing
from ready_trail.core.solver import OperatingPoint
from ready_trail.core.truth import TruthTable, truth_table
from ready_trail.formats.size_json import size_to_json
from ready_trail.formats.wire_csv import own_wires


def design_to_json(design: Design) -> dict[str, Any]:
    """Return the whole design as plain figures."""
    return {
        "job": design.job.name,
        "is_ready": design.is_ready,
        "ready": design.ready_count,
        "circuits_total": len(design.circuits),
        "stops": design.count("stop"),
        "cautions": design.count("caution"),
        "points": [_point(view) for view in design.points.values()],
        "circuits": [circuit_to_json(circuit, design) for circuit in design.circuits],
        "scenarios": [_scenario(found, design) for found in design.budget.scenarios],
        "parked_days": {
            design.budget.names[bank]: round(days, 1)
            for bank, days in design.budget.parked_days.items()
        },
        "findings": [_finding(finding) for finding in design.findings],
    }


def circuit_to_json(design: CircuitDesign, job: Design) -> dict[str, Any]:
    """Return one circuit: sizes, wires, profile, truth table, findings."""
    profile = design.profile
    table = truth_table(design, job.plan)
    return {
        "id": design.circuit.id,
        "name": design.circuit.name,
        "starts_at": {
            "point": design.circuit.start.point,
            "position": design.circuit.start.position,
        },
        "feeds": design.circuit.feeds,
        "scheme": design.scheme.key,
        "scheme_reason": design.planned.reason,
        "design_current_a": round(design.current_a, 3),
        "sizing": size_to_json(design.sizing),
        "colour": design.colour,
        "ready": design.is_ready,
        "wires": [_wire(wire, job) for wire in own_wires(design, job)],
        "profile": None
        if profile is None
        else {
            "current_a": round(profile.current_a, 3),
            "posts_v": round(profile.posts_v, 4),
            "load_v": round(profile.load_v, 4),
            "conductor_drop_v": round(profile.conductor_drop_v, 4),
            "path_drop_v": round(profile.path_drop_v, 4),
        },
        "output": design.circuit.output or None,
        "branches": [_branch(design, sized) for sized in design.sizing.branches.values()],
        "inputs": [_input(reading) for reading in read_inputs(design, job.plan)],
        "truth": _truth(table) if table else [],
        "findings": [_finding(finding) for finding in design.findings],
    }


def point_to_json(point: OperatingPoint) -> dict[str, Any]:
    """Return an operating point: node voltages, branch currents, relay states."""
    return {
        "key": point.state.key,
        "lights": point.state.lights,
        "on": sorted(point.state.on),
        "signals": sorted(point.state.signals),
        "node_v": {name: round(v, 9) for name, v in point.node_v.items()},
        "branch_a": {name: round(a, 9) for name, a in point.branch_a.items()},
        "relays": {name: "energised" if on else "released" for name, on in point.energised.items()},
        "chatter": list(point.chatter),
        "cut_out": sorted(point.cut_out),
        "limited": sorted(point.limited),
        "idle": sorted(point.idle),
        "residual_a": point.residual_a,
    }


def _point(view: PointDesign) -> dict[str, Any]:
    return {
        "id": view.point.id,
        "name": view.point.name,
        "kind": view.point.kind,
        "nominal_v": view.nominal_v,
        "together_a": round(view.together_a, 3),
        "taken_a": round(view.total_a, 3),
        "circuits": list(view.members),
    }


def _scenario(found: ScenarioBudget, job: Design) -> dict[str, Any]:
    scenario = found.scenario
    return {
        "id": scenario.id,
        "name": scenario.name,
        "key": scenario.key,
        "lights": scenario.lights,
        "engine": scenario.engine,
        "minutes": scenario.minutes,
        "in_use": [
            {
                "name": draw.name,
                "bank": job.budget.names[draw.bank],
                "mean_a": round(draw.mean_a, 3),
            }
            for draw in found.draws
        ],
        "taken_a": round(found.load_a, 3),
        "alternator_a": round(found.alternator_a, 3),
        "left": {job.budget.names[bank]: round(state, 4) for bank, state in found.ends.items()},
        "half_empty_h": {
            job.budget.names[bank]: round(hours, 3) for bank, hours in found.half_h.items()
        },
    }


def _wire(wire: Wire, job: Design) -> dict[str, Any]:
    return {
        "label": wire.label,
        "role": wire.role,
        "from": job.installation.words(wire.start),
        "to": job.installation.words(wire.end),
        "size": wire.conductor.size,
        "colour": wire.colour,
        "length_m": round(wire.length_m, 3),
        "cut_length_m": wire.cut_length_m,
    }


def _branch(design: CircuitDesign, sized: BranchSizing) -> dict[str, Any]:
    """One branch; ``load_v`` is solved where units hang at its end."""
    stated = next(b for b in design.circuit.branches if b.id == sized.stretch.id)
    end = next((o for o in design.outlets if o.outlet.branch == stated.id), None)
    profile = end.profile if end is not None else None
    return {
        "id": stated.id,
        "name": stated.name,
        "behind": stated.behind or None,
        "units": {s.accessory: s.units for s in stated.loads},
        "size": sized.chosen.conductor.size,
        "current_a": round(sized.stretch.current_a, 3),
        "conductor_drop_v": round(sized.chosen.conductor_drop_v, 4),
        "drop_limit_v": sized.stretch.drop_limit_v if stated.loads else None,
        "load_v": round(profile.load_v, 4) if profile is not None else None,
    }


def _input(reading: InputReading) -> dict[str, Any]:
    return {
        "name": reading.wire.name,
        "ends": reading.ends,
        "rest_v": None if reading.rest_v is None else round(reading.rest_v, 3),
        "on_v": None if reading.on_v is None else round(reading.on_v, 3),
        "right": reading.is_right,
    }


def _truth(table: TruthTable) -> list[dict[str, Any]]:
    return [
        {
            "key": cell.key,
            "lights": cell.lights,
            "signal": cell.signal or None,
            "switch_on": cell.switch_on if table.has_switch else None,
            "on": cell.is_on,
        }
        for cell in table.cells
    ]


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "code": finding.code,
        "area": finding.area,
        "place": finding.place,
        "severity": finding.severity,
        "text": finding.text,
        "found": finding.found,
        "allowed": finding.allowed,
        "accepted": finding.accepted_reason or None,
        "ways_out": [action.label for action in finding.actions],
    }
