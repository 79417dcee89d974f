"""A plan as bytes, and the digest of what it is reckoned from: it is made once for good."""

from __future__ import annotations

import hashlib
import io
import json
from dataclasses import fields, is_dataclass, replace

import numpy as np

from ready_trail.core.outcome import Design
from ready_trail.core.prove.bench import Bench, bench_of
from ready_trail.core.prove.candidates import candidates
from ready_trail.core.prove.cover import Cover, marked
from ready_trail.core.prove.kinds import KINDS
from ready_trail.core.prove.matrix import Matrix, kept_candidates, unique
from ready_trail.core.prove.plan import Plan
from ready_trail.core.prove.records import Band

VERSION = "6"
"""Goes up whenever a plan is reckoned otherwise, so that kept ones are not taken for it."""


def digest_of(bench: Bench) -> str:
    """Name everything that a circuit's plan follows from."""
    settings = (bench.working, bench.resting, *bench.others)
    facts = (
        VERSION,
        bench.sound.nominal_v,
        [_plain(e) for e in bench.sound.elements],
        [s.key for s in settings],
        [(d.ref, d.title, d.owner) for d in bench.installation.devices.values()],
        [(w.label, w.owner, w.role) for w in bench.installation.wires.values()],
    )
    return hashlib.sha256(repr(facts).encode()).hexdigest()[:32]


def _plain(thing: object) -> object:
    """A record as nested tuples that read the same in every process: sets have no order."""
    if is_dataclass(thing):
        own = tuple((f.name, _plain(getattr(thing, f.name))) for f in fields(thing))
        return type(thing).__name__, own
    if isinstance(thing, frozenset):
        return tuple(sorted(map(str, thing)))
    return thing


def to_bytes(plan: Plan) -> bytes:
    """Return a plan's arrays, packed."""
    out = io.BytesIO()
    m, c = plan.matrix, plan.cover
    np.savez_compressed(
        out,
        tests=np.frombuffer(json.dumps([t.key for t in m.tests]).encode(), dtype=np.uint8),
        hidden=np.frombuffer(json.dumps(c.hidden).encode(), dtype=np.uint8),
        owner=m.owner.astype(np.int32),
        readings=m.readings.astype(np.float32),
        middle=m.middle,
        spread=m.spread.astype(np.float32),
        sigma=m.sigma,
        must=np.array(c.must, dtype=np.int32),
        shows=c.shows,
        counted=c.counted,
    )
    return out.getvalue()


def from_bytes(design: Design, circuit_id: str, data: bytes) -> Plan | None:
    """Return the plan whose arrays these are; None where they are of another one."""
    bench = bench_of(design, circuit_id)
    if bench is None:
        return None
    tests = unique([test for kind in KINDS for test in kind(bench)])
    found, _, owner = kept_candidates(bench, candidates(design, bench.installation))
    with np.load(io.BytesIO(data), allow_pickle=False) as kept:
        keys = json.loads(bytes(kept["tests"]))
        if keys != [t.key for t in tests] or list(kept["owner"]) != owner:
            return None
        middle, sigma = kept["middle"], kept["sigma"]
        banded = tuple(
            t if t.band.most is not None else replace(t, band=Band(middle=float(m), sigma=float(s)))
            for t, m, s in zip(tests, middle, sigma, strict=True)
        )
        matrix = Matrix(
            circuit_id=circuit_id,
            tests=banded,
            candidates=found,
            owner=kept["owner"].astype(np.intp),
            readings=kept["readings"].astype(np.float64),
            middle=middle,
            spread=kept["spread"].astype(np.float64),
            sigma=sigma,
        )
        cover = Cover(
            must=tuple(int(i) for i in kept["must"]),
            shows=kept["shows"],
            counted=kept["counted"],
            hidden=tuple((k, w) for k, w in json.loads(bytes(kept["hidden"]))),
        )
    return Plan(circuit_id=circuit_id, matrix=marked(matrix, cover), cover=cover)
