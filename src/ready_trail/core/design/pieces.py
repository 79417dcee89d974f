"""A run as wire pieces at the temperatures at which the wire works."""

from __future__ import annotations

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import ampacity_a, conductor_temperature_c
from ready_trail.core.installation import Piece
from ready_trail.core.job import Segment
from ready_trail.core.job.zones import zone_ambient_c
from ready_trail.core.sizing import Leg, Rung


def legs(run: tuple[Segment, ...], catalogue: Catalogue) -> tuple[Leg, ...]:
    """Return a run as sizing legs."""
    return tuple(
        Leg(
            length_m=segment.length_m,
            ambient_c=zone_ambient_c(segment, catalogue),
            loaded_conductors=segment.loaded_conductors,
        )
        for segment in run
    )


def working_pieces(
    run: tuple[Segment, ...],
    legs: tuple[Leg, ...],
    rung: Rung,
    current_a: float | None,
    insulation_c: int,
) -> tuple[Piece, ...]:
    """Return one piece a segment of a wire that carries a current; without one (a winch, for a
    minute) it is as warm as its rung says. [A]
    """
    pieces = []
    for segment, leg in zip(run, legs, strict=True):
        conductor_c = rung.conductor_c
        if current_a is not None:
            conductor_c = conductor_temperature_c(
                current_a=current_a,
                ampacity_a=ampacity_a(
                    rung.conductor,
                    insulation_c=insulation_c,
                    ambient_c=leg.ambient_c,
                    loaded_conductors=leg.loaded_conductors,
                ),
                insulation_c=insulation_c,
                ambient_c=leg.ambient_c,
            )
        pieces.append(
            Piece(
                zone=segment.zone,
                ambient_c=leg.ambient_c,
                conductor_c=conductor_c,
                length_m=segment.length_m,
                loaded_conductors=segment.loaded_conductors,
                passes=segment.passes.name if segment.passes else "",
                grommet=segment.passes.grommet if segment.passes else True,
                taped=segment.taped,
            )
        )
    return tuple(pieces)
