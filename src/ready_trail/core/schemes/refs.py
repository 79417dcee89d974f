"""References of joints and units behind them: J8, J8.3, L8.1."""

from __future__ import annotations

from ready_trail.core.job import Circuit
from ready_trail.core.job.branch import leaves


def joint_ref(number: int, branch_id: str = "") -> str:
    """Return the reference of the joint at the end of a trunk, or of a branch."""
    return f"J{number}.{short(branch_id)}" if branch_id else f"J{number}"


def unit_ref(load_ref: str, branch_id: str) -> str:
    """Return the reference of the units at the end of a branch."""
    return f"{load_ref}.{short(branch_id)}"


def first_unit(load_ref: str, circuit: Circuit, accessory_id: str = "") -> str:
    """Return the device of a circuit's first units, or of one accessory's: it may have branches."""
    for branch in leaves(circuit.branches):
        if not accessory_id or any(s.accessory == accessory_id for s in branch.loads):
            return unit_ref(load_ref, branch.id)
    return load_ref


def short(branch_id: str) -> str:
    """Return a branch's number, or its whole name."""
    return branch_id[1:] if branch_id[1:].isdigit() else branch_id
