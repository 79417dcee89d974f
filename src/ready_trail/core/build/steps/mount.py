"""Mount: everything that wires end at, place by place."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.sites import Site
from ready_trail.core.build.steps.base import Step, Yard
from ready_trail.core.installation import Device


def mounted(device: Device, yard: Yard) -> bool:
    """Whether a device is put up by the builder at all: what is there already is not."""
    is_part = device.ref in yard.keys_of_ref
    spec = device.spec
    is_ours = not (spec.is_post or spec.is_signal) or bool(device.owner)
    return is_part and is_ours and not spec.is_earth


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each place."""
    at: dict[str, tuple[Site, list[Device]]] = {}
    for device in yard.new_devices:
        if mounted(device, yard):
            site = yard.sites.of(device.ref)
            at.setdefault(site.key, (site, []))[1].append(device)
    taped = yard.made.job.rules.mounting == "tape"
    for key, (site, devices) in at.items():
        heavy = any(d.spec.is_load for d in devices)
        keys = tuple(
            k
            for d in devices
            for k in yard.keys_of_ref.get(d.ref, ())
            if not (d.spec.sits_in_holder and k.startswith("fuse-"))
        )
        yield Step(
            id=f"mount:{key}",
            stage="mount",
            site=site,
            title=f"Mount {_count_words(devices)}",
            doing=tuple(_words(d) for d in devices),
            tools=("tape for the vehicle's panels",) if taped else ("spanner", "screwdriver"),
            cautions=("Flat, dry, within reach; fuses visible; fuses stay out.",),
            minutes=4.0 * len(devices) + (10.0 if heavy else 0.0),
            refs=tuple(d.ref for d in devices),
            parts=tuple(dict.fromkeys(keys)),
            circuits=tuple(dict.fromkeys(d.owner for d in devices if d.owner)),
        )


def _words(device: Device) -> str:
    if device.spec.sits_in_holder:
        return f"Holder {device.ref} for {device.label}"
    named = device.name and device.name != device.ref
    title = f"{device.name} ({device.ref})" if named else f"{device.ref}"
    return f"{title}: {device.label}" if device.label and device.label != device.name else title


def _count_words(devices: list[Device]) -> str:
    loads = [d.title for d in devices if d.spec.is_load]
    others = len(devices) - len(loads)
    words = ", ".join(loads[:3]) + (f" and {len(loads) - 3} more" if len(loads) > 3 else "")
    if not others:
        return words
    count = f"{others} part{'s' if others > 1 else ''}"
    return f"{words} and {count}" if words else count
