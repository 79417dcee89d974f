"""The maker's own leads: which colour of theirs meets which wire of ours."""

from __future__ import annotations

from ready_trail.core.installation import Device, Terminal, Wire
from ready_trail.core.job import Accessory
from ready_trail.core.job.accessory import Post
from ready_trail.core.outcome import Design


def maker_lead(wire: Wire, made: Design) -> str:
    """Return the colour of the maker's lead that a wire meets at an accessory, or an empty text."""
    for end in (wire.end, wire.start):
        device = made.installation.devices.get(end.device)
        if device is not None and device.spec.is_load and device.owner in made.plan.circuits:
            lead = _lead_at(end, _accessories(device.owner, end.device, made))
            if lead:
                return lead
    return ""


def _accessories(circuit_id: str, ref: str, made: Design) -> tuple[Accessory, ...]:
    planned = made.plan.circuits[circuit_id]
    ends = [o for o in planned.outlets if o.ref == ref] or list(planned.outlets)
    ids = dict.fromkeys(a.id for o in ends for a in o.accessories)
    return tuple(made.job.accessory(i) for i in ids)


def _lead_at(end: Terminal, accessories: tuple[Accessory, ...]) -> str:
    for accessory in accessories:
        named = {"+": accessory.lead, "-": accessory.lead_minus}
        named |= {o.name: o.lead for o in accessory.outputs}
        named |= {w.name: w.lead for w in accessory.inputs}
        named |= {p.name: p.lead for p in accessory.posts}
        if named.get(end.terminal):
            return named[end.terminal]
    return ""


def post_of(device: Device, terminal: str, made: Design) -> Post | None:
    """Return what a maker's paper says of a post of a winch's motor or box, or None."""
    planned = made.plan.circuits.get(device.owner)
    for accessory in planned.accessories if planned is not None else ():
        for post in accessory.posts:
            if post.name == terminal and (device.spec.is_load or device.spec.is_relay):
                return post
    return None
