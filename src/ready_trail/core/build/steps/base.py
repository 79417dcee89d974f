"""What a step is, the stages of a build, and what every stage may look up."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache

from ready_trail.core.build.bill import Line
from ready_trail.core.build.cuts import Cut, CutList
from ready_trail.core.build.found import device_is_there
from ready_trail.core.build.sites import Site, Sites
from ready_trail.core.build.terminals import End
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.installation import Device, Terminal, Wire
from ready_trail.core.leads import post_of
from ready_trail.core.outcome import CircuitDesign, Design


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage of the build, in the order of the work."""

    key: str
    label: str
    why: str


STAGES = (
    Stage(key="prepare", label="Prepare", why="Prove the vehicle's wires, then make it dead."),
    Stage(key="bench", label="On the bench", why="Clean hands and good light: cut, label."),
    Stage(key="holes", label="Holes", why="Before any wire goes through."),
    Stage(key="mount", label="Mount", why="Everything that wires end at, place by place."),
    Stage(key="looms", label="Lay the wires", why="From the dead end back towards the source."),
    Stage(key="sleeves", label="Sleeve and clip", why="Before the second ends are made."),
    Stage(key="earths", label="Earths", why="Before any feed."),
    Stage(key="control", label="Control", why="Switches, coils and what triggers them."),
    Stage(key="power", label="Power", why="From the accessory's side up to the fuse holder."),
    Stage(key="covers", label="Close up", why="Nothing bare before the battery goes on."),
    Stage(key="battery", label="Battery", why="Positive leads first, the negative clamp last."),
    Stage(key="first_power", label="First power", why="One fuse at a time, each with its test."),
)
"""In the order of the work."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One thing to do at one place.

    ``doing`` are its lines, ``expects`` what a test should read. ``first`` and ``second`` list
    the wires whose first or second end it makes, ``lays`` those that it lays, ``cuts`` those
    that it cuts, ``sleeves`` those whose sleeve it closes; ``refs`` the devices that it handles,
    ``parts`` the lines of the parts list that it uses. ``after`` are the steps that it waits
    for, with the reason.
    """

    id: str
    stage: str
    site: Site
    title: str
    doing: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    torques: tuple[tuple[str, float | None], ...] = ()
    cautions: tuple[str, ...] = ()
    expects: tuple[tuple[str, str], ...] = ()
    minutes: float = 5.0
    cuts: tuple[str, ...] = ()
    first: tuple[str, ...] = ()
    lays: tuple[str, ...] = ()
    sleeves: tuple[str, ...] = ()
    second: tuple[str, ...] = ()
    refs: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    circuits: tuple[str, ...] = ()
    after: tuple[tuple[str, str], ...] = ()

    @property
    def print(self) -> str:
        """What it asks, as a short digest: another one means that it has to be looked at again.

        Minutes, cautions and the order do not count: they change nothing on the vehicle.
        """
        return _digest(self.title, self.site.name, self.doing, self.torques, self.expects)


@lru_cache(maxsize=8192)
def _digest(
    title: str,
    site: str,
    doing: tuple[str, ...],
    torques: tuple[tuple[str, float | None], ...],
    expects: tuple[tuple[str, str], ...],
) -> str:
    asked = [title, site, *doing, *(f"{a} {b or 'as its maker says'}" for a, b in torques)]
    text = json.dumps([*asked, *(f"{a}: {b}" for a, b in expects)], ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()[:12]


@dataclass(frozen=True, kw_only=True)
class Yard:
    """A design with its cut list, its parts and its places, ready to be asked."""

    made: Design
    catalogue: Catalogue
    cuts: CutList
    lines: tuple[Line, ...]
    sites: Sites

    @property
    def wires(self) -> Mapping[str, Wire]:
        """Every wire to lay: those that are there already are left out."""
        return self._wires

    @cached_property
    def _wires(self) -> Mapping[str, Wire]:
        every = self.made.installation.wires
        return {label: every[label] for label in self.cut_of}

    @cached_property
    def new_devices(self) -> tuple[Device, ...]:
        """The devices that are not in the vehicle already."""
        return tuple(
            d for d in self.made.installation.devices.values() if not device_is_there(d, self.made)
        )

    @cached_property
    def battery(self) -> Site:
        """Where the battery sits."""
        refs = [r for r, d in self.made.installation.devices.items() if d.spec.is_post]
        return self.sites.of(refs[0]) if refs else self.sites.zone("")

    @cached_property
    def keys_of_ref(self) -> Mapping[str, tuple[str, ...]]:
        """The lines of the parts list that account for each device."""
        found: dict[str, list[str]] = {}
        for line in self.lines:
            for ref in line.refs if line.to_get else ():
                found.setdefault(ref, []).append(line.key)
        return {ref: tuple(keys) for ref, keys in found.items()}

    @cached_property
    def keys_of_end(self) -> Mapping[str, tuple[str, ...]]:
        """The lines that account for each end of a piece ("C15-W1 start")."""
        found: dict[str, list[str]] = {}
        for line in self.lines:
            for end in line.ends:
                found.setdefault(end, []).append(line.key)
        return {end: tuple(keys) for end, keys in found.items()}

    @cached_property
    def cut_of(self) -> Mapping[str, Cut]:
        """The main piece of each wire."""
        return {cut.label: cut for cut in self.cuts.cuts if cut.label == cut.wire}

    def first_end(self, wire: Wire) -> Terminal:
        """Return the end of a wire that is made first: the dead one, away from the source."""
        return wire.start if wire.role in ("return", "control_return") else wire.end

    def second_end(self, wire: Wire) -> Terminal:
        """Return the end of a wire that is made last: towards the source, or the earth."""
        return wire.end if wire.role in ("return", "control_return") else wire.start

    def end_at(self, wire: Wire, terminal: Terminal) -> End:
        """Return what goes on the end of a wire at a terminal."""
        cut = self.cut_of[wire.label]
        return cut.start if terminal is wire.start else cut.end

    def keys_at(self, wire: Wire, terminal: Terminal) -> tuple[str, ...]:
        """Return the lines of the parts that one end of a wire uses, its pigtail included."""
        side = "start" if terminal is wire.start else "end"
        names = [f"{wire.label} {side}"]
        tail = f"{wire.label}{'a' if side == 'start' else 'b'}"
        names += [f"{tail} start", f"{tail} end"]
        if side == "end":  # what is spliced on to a kit's lead ends here
            names += [f"{wire.label}x start", f"{wire.label}x end"]
        return tuple(dict.fromkeys(k for n in names for k in self.keys_of_end.get(n, ())))

    def site_at(self, terminal: Terminal) -> Site:
        """Return the place of a terminal."""
        return self.sites.of(terminal.device)

    def words(self, terminal: Terminal) -> str:
        """Return a terminal as people say it."""
        return self.made.installation.words(terminal)

    def circuit(self, owner: str) -> CircuitDesign | None:
        """Return a circuit's design, or None where a switch or a point owns."""
        return next((c for c in self.made.circuits if c.circuit.id == owner), None)

    def torques(self, ends: Iterable[End]) -> tuple[tuple[str, float | None], ...]:
        """Return the studs of some ends with their torque, each once: as stated or usual, None
        where only the maker knows. [N·m]
        """
        found = {(e.stud, e.torque_nm) for e in ends if e.stud}
        return tuple(sorted(found, key=lambda x: (x[0], x[1] or 0.0)))


def end_words(yard: Yard, wire: Wire, terminal: Terminal) -> str:
    """Return one line for joining an end of a wire: label, colour, place, terminal."""
    cut, end = yard.cut_of[wire.label], yard.end_at(wire, terminal)
    colour = cut.mark or cut.colour
    step = ", stepped down through its pigtail" if end.step_down else ""
    lead = f", to the maker's {cut.lead} lead" if cut.lead and _is_load(yard, terminal) else ""
    what = f"{wire.label} ({wire.conductor.label} {colour})"
    device = yard.made.installation.devices.get(terminal.device)
    post = post_of(device, terminal.terminal, yard.made) if device is not None else None
    hold = "; hold the nut below it" if post is not None and post.hold else ""
    return f"{what} to {yard.words(terminal)}: {end.label}{step}{lead}{hold}"


def circuits_of(wires: Iterable[Wire]) -> tuple[str, ...]:
    """Return the owners of some wires, each once."""
    return tuple(dict.fromkeys(w.owner for w in wires))


def by_site(
    yard: Yard, wires: Iterable[tuple[Wire, Terminal]]
) -> dict[str, tuple[Site, list[Wire]]]:
    """Return wires grouped by the place of one of their terminals."""
    found: dict[str, tuple[Site, list[Wire]]] = {}
    for wire, terminal in wires:
        site = yard.site_at(terminal)
        found.setdefault(site.key, (site, []))[1].append(wire)
    return found


def _is_load(yard: Yard, terminal: Terminal) -> bool:
    device = yard.made.installation.devices.get(terminal.device)
    return device is not None and device.spec.is_load
