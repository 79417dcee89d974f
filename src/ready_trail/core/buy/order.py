"""The order: what a job lacks, in whole packs, by supplier; what is left over in the end."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ready_trail.core.build.cuts import CutList
from ready_trail.core.buy.packs import Packed, lengths_of, pack, packs_for
from ready_trail.core.buy.stock import Needed, Shopping


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderLine:
    """One part to order. ``packed`` is None where no pack serves: ``refusal`` says why."""

    needed: Needed
    packed: Packed | None
    refusal: str = ""

    @property
    def supplier(self) -> str:
        """Whom the shelf names for it."""
        return self.needed.part.supplier if self.needed.part is not None else ""

    @property
    def price(self) -> float | None:
        """What its packs cost; None where that is not known."""
        return self.packed.price if self.packed is not None else None


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """Everything to order, by supplier; ``unpriced`` counts lines of which the price is open."""

    lines: tuple[OrderLine, ...]
    price: float
    unpriced: int

    @property
    def by_supplier(self) -> Mapping[str, tuple[OrderLine, ...]]:
        """The lines of each supplier, those of nobody last."""
        names = sorted({line.supplier for line in self.lines}, key=lambda n: (not n, n.casefold()))
        return {name: tuple(x for x in self.lines if x.supplier == name) for name in names}


def order_of(shopping: Shopping, cuts: CutList, *, in_feet: bool = False) -> Order:
    """Return what is missing, in packs. Wire of which the shelf has some is cut from that first."""
    pieces = {spool.key: lengths_of(spool.cuts) for spool in cuts.spools}
    lines = tuple(
        _line(needed, pieces.get(needed.line.key, ()), in_feet=in_feet)
        for needed in shopping.needed
        if needed.missing > 0
    )
    return Order(
        lines=lines,
        price=sum(line.price or 0.0 for line in lines),
        unpriced=sum(line.price is None for line in lines),
    )


def _line(needed: Needed, pieces: tuple[float, ...], *, in_feet: bool) -> OrderLine:
    own = needed.part.packs if needed.part is not None else ()
    price = needed.part.price if needed.part is not None else None
    packs = packs_for(needed.line, own, price, in_feet=in_feet)
    there_m = needed.taken + needed.on_shelf if pieces else 0.0
    try:
        packed = pack(needed.missing, packs, pieces=pieces, there_m=there_m)
    except ValueError as error:
        return OrderLine(needed=needed, packed=None, refusal=str(error))
    return OrderLine(needed=needed, packed=packed)
