"""A run as wire pieces at the temperatures at which the wire works."""

from __future__ import annotations

from ready_trail.core.conductors import ampacity_a, conductor_temperature_c
from ready_trail.core.installation import Piece
from ready_trail.core.job import Segment
from ready_trail.core.sizing import Leg, Sizing


def working_pieces(
    run: tuple[Segment, ...], legs: tuple[Leg, ...], sizing: Sizing
) -> tuple[Piece, ...]:
    """Return one piece a segment, for the wire that the sizing chose."""
    chosen, request = sizing.chosen, sizing.request
    if chosen is None:
        raise ValueError("a run has no working temperature before its wire is chosen")
    pieces = []
    for segment, leg in zip(run, legs, strict=True):
        if request.winch is not None:
            conductor_c = chosen.conductor_c
        else:
            conductor_c = conductor_temperature_c(
                current_a=request.current_a,
                ampacity_a=ampacity_a(
                    chosen.conductor,
                    insulation_c=request.insulation_c,
                    ambient_c=leg.ambient_c,
                    loaded_conductors=leg.loaded_conductors,
                ),
                insulation_c=request.insulation_c,
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
