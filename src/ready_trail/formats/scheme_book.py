"""The book of schemes: each one as it comes out of a small job, so that it cannot be wrong."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.design import CircuitDesign, Design, design
from ready_trail.formats.job_json import read_job

_ARRANGEMENT = "x-"
_OTHER_WHEN = {
    "x-dual-output": "an accessory with two outputs, each with its own switch; its lead colours "
    "are the maker's matter, so prove them",
    "x-dual-87": "two lamps close to the relay: two joined 87 blades save a joint. Two 87 are not "
    "87 and 87a; prove it with a meter",
    "x-link-keyed": "a second battery on a vehicle with a charge-lamp wire; both ends are fused",
    "x-converter": "12 volt things on a 24 or 48 volt vehicle, behind a converter of their own",
    "x-isolator": "a supervised vehicle: its lamp wire is only sensed, and gives milliamps",
    "x-function-wires": "a beacon or warning light with wires that set its pattern",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One page of the book: a scheme, or an arrangement of schemes, with its small job."""

    key: str
    title: str
    when: str
    job: Design
    circuit: CircuitDesign

    @property
    def is_scheme(self) -> bool:
        """Whether it is a scheme of its own, rather than an arrangement."""
        return not self.key.startswith(_ARRANGEMENT)


@lru_cache(maxsize=1)
def entries() -> tuple[Entry, ...]:
    """Return the whole book by title: schemes first, then arrangements of them."""
    folder = files("ready_trail").joinpath("data", "schemes")
    stems = {e.name.removesuffix(".json") for e in folder.iterdir() if e.name.endswith(".json")}
    book = [_entry(key, folder.joinpath(f"{key}.json").read_bytes()) for key in stems]
    return tuple(sorted(book, key=lambda e: (not e.is_scheme, e.title)))


def _entry(key: str, data: bytes) -> Entry:
    catalogue = load_catalogue()
    made = design(read_job(data, catalogue), catalogue)
    if key.startswith(_ARRANGEMENT):
        circuits = [c for c in made.circuits if c.accessories] or list(made.circuits)
        return Entry(
            key=key, title=made.job.name, when=_OTHER_WHEN[key], job=made, circuit=circuits[0]
        )
    circuit = next(c for c in reversed(made.circuits) if c.scheme.key == key)
    return Entry(
        key=key, title=circuit.scheme.label, when=circuit.scheme.when, job=made, circuit=circuit
    )
