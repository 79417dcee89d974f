"""A circuit as it is asked for, before anything is sized: its scheme, amps and request."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.asking import ask_of
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design.request import sizing_request
from ready_trail.core.errors import CoreError, TableError
from ready_trail.core.job import Circuit
from ready_trail.core.schemes import BY_KEY, Ask, Scheme, propose
from ready_trail.core.sizing import SizingRequest
from ready_trail.core.supply.currents import Currents, load_currents_a
from ready_trail.core.supply.tree import Tree


@dataclass(frozen=True, slots=True, kw_only=True)
class Draft:
    """One circuit with its scheme. ``request`` is what sizing is asked with nothing ahead of it;
    None where it lies outside every formula, and ``trouble`` says so.
    """

    ask: Ask
    scheme: Scheme
    reason: str
    amps: tuple[float, ...]
    nominal_v: float
    request: SizingRequest | None
    trouble: str = ""


def draft_of(circuit: Circuit, tree: Tree, currents: Currents, catalogue: Catalogue) -> Draft:
    """Return a circuit's draft. Raises TableError for a held scheme that there is not."""
    current_a = currents.circuit_a(circuit)
    ask = ask_of(tree.job, tree, circuit, current_a)
    nominal_v = tree.nominal_v(circuit.start.point)
    amps = load_currents_a(ask.accessories, nominal_v) if ask.accessories else (current_a,)
    scheme, reason = _scheme(ask)
    request, trouble = None, ""
    try:
        request = sizing_request(ask, scheme, catalogue, amps, currents)
    except CoreError as error:
        trouble = f"{error}"
    return Draft(
        ask=ask,
        scheme=scheme,
        reason=reason,
        amps=amps,
        nominal_v=nominal_v,
        request=request,
        trouble=trouble,
    )


def _scheme(ask: Ask) -> tuple[Scheme, str]:
    """The held scheme, or the one that fits, with its reason."""
    key = ask.circuit.held.scheme
    if key is None:
        return propose(ask)
    if key not in BY_KEY:
        raise TableError(f"no scheme {key!r}")
    return BY_KEY[key], f"Held by hand. {BY_KEY[key].when.capitalize()}."
