"""Ways out of a circuit that cannot be sized: each one is tried before it is offered."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.sizing.records import Sizing, SizingRequest, WayOut
from ready_trail.core.sizing.rules import Steady
from ready_trail.core.sizing.size import size
from ready_trail.core.wording import lower_first

_OTHER_FAMILIES = ("large_blade", "strip_m5", "strip_m8", "post_block")


def ways_out(failed: Sizing, catalogue: Catalogue) -> tuple[WayOut, ...]:
    """Return the changes, best first, that would make a failed sizing hold."""
    found = []
    for kind, text, request in _candidates(failed, catalogue):
        result = size(request, catalogue)
        if result.ok:
            found.append(WayOut(kind=kind, text=text, result=result))
    return tuple(found)


def _candidates(failed: Sizing, catalogue: Catalogue) -> Iterator[tuple[str, str, SizingRequest]]:
    request, held = failed.request, failed.request.held
    if held.size:
        yield "release_size", "Choose the wire size automatically", _holding(request, size=None)
    if held.fuse_a:
        yield (
            "release_fuse",
            "Choose the fuse automatically",
            _holding(request, fuse_a=None, family=None),
        )
    if held.relay:
        yield "release_relay", "Choose the relay automatically", _holding(request, relay=None)
    rule, most_a = request.rule, request.rule.maker_max_a
    if most_a is not None and isinstance(rule, Steady) and not rule.makers_fuse_wins:
        yield (
            "makers_fuse",
            f"Take the maker's {most_a:g} A; the load is intermittent",
            replace(request, rule=replace(rule, duty="intermittent")),
        )
    yield (
        "split",
        "Split the load over two circuits",
        replace(request, current_a=request.current_a / 2),
    )
    fuse = failed.fuse
    if held.family:
        yield (
            "release_family",
            "Choose the fuse family automatically",
            _holding(request, family=None),
        )
    for family in _OTHER_FAMILIES:
        if (fuse is None or family != fuse.family.family) and family not in request.fusing.families:
            free = _holding(request, family=family, fuse_a=None)
            label = catalogue.fuse_family(family).label
            words = f"Fuse it by a {lower_first(label)}"
            yield f"family:{family}", words, free
    path = request.path
    if any(leg.loaded_conductors > 2 for leg in path.out):
        apart = tuple(replace(leg, loaded_conductors=1) for leg in path.out)
        words = "Route it apart from the loom"
        yield "separate", words, replace(request, path=replace(path, out=apart))
    for class_c in (105, 125):
        if class_c > request.wire.insulation_c:
            hotter = replace(request, wire=replace(request.wire, insulation_c=class_c))
            yield f"insulation:{class_c}", f"Use {class_c} °C insulation", hotter


def _holding(request: SizingRequest, **changes: object) -> SizingRequest:
    return replace(request, held=replace(request.held, **changes))  # type: ignore[arg-type]
