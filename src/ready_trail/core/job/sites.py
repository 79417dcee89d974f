"""A likely run for a new circuit: where such a thing usually sits on such a vehicle (house).

Something to look at before the tape comes out; every segment is an estimate until taped.
"""

from __future__ import annotations

from ready_trail.core.job.circuit import Segment

_RUNS: dict[str, tuple[tuple[str, float], ...]] = {
    "front": (("engine_bay", 1.0), ("grille", 1.0)),
    "engine": (("engine_bay", 1.2),),
    "cabin": (("engine_bay", 0.8), ("cabin", 1.5)),
    "roof": (("engine_bay", 0.8), ("cabin", 2.2), ("roof", 1.5)),
    "bed": (("engine_bay", 0.8), ("cabin", 2.2), ("load_bed", 1.5)),
    "rear": (("engine_bay", 0.8), ("underbody", 3.0), ("tail", 1.0)),
    "axle": (("engine_bay", 0.8), ("underbody", 2.0)),
    "": (("engine_bay", 1.5), ("cabin", 1.5)),
}
_MOTORCYCLE: dict[str, tuple[tuple[str, float], ...]] = {
    "front": (("engine_bay", 0.8), ("grille", 0.6)),
    "bar": (("engine_bay", 0.8), ("grille", 0.5)),
    "rear": (("engine_bay", 0.3), ("tail", 0.8)),
    "": (("engine_bay", 0.6), ("tail", 0.5)),
}
_OUT_M = 0.5
"""Out of the zone of a point that lies off the usual way (house). [m]"""
_RUNS_OF = {"motorcycle": _MOTORCYCLE}
_LONG = {"lorry": 1.4, "van": 1.2, "saloon": 0.9, "side_by_side": 0.7}


def likely_run(kind: str, site: str, begins: str = "") -> tuple[Segment, ...]:
    """Return an estimated run for a vehicle kind and a usual place, from the zone where it begins:
    what lies ahead of that falls away.
    """
    runs = _RUNS_OF.get(kind, _RUNS)
    wanted = runs.get(site) or runs.get({"bar": "cabin"}.get(site, ""), runs[""])
    ratio = _LONG.get(kind, 1.0)
    zones = [z for z, _ in wanted]
    if begins in zones:
        wanted = wanted[zones.index(begins) :]
    elif begins and begins != zones[0]:
        wanted = ((begins, _OUT_M), *wanted[1:])
    return tuple(Segment(zone=z, length_m=round(m * ratio, 2)) for z, m in wanted)
