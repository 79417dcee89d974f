"""The loom network: points and legs as a graph, and the cheapest allowed way through it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import networkx as nx

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.job.layout import Layout, LoomLeg, LoomPoint

HOT_ZONE_C = 100.0
HOT_COST_X = 20.0
PREFERRED_COST_X = 0.6
"""A hot leg counts twenty times its length, a preferred one six tenths (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """A way from point to point: its legs in order, and the points it touches."""

    points: tuple[str, ...]
    legs: tuple[str, ...]
    leg_m: tuple[float, ...]
    length_m: float
    cost: float


class LoomNetwork:
    """The graph of one layout. Built once, asked many times."""

    def __init__(self, layout: Layout, catalogue: Catalogue) -> None:
        self.layout = layout
        self.legs = {leg.id: leg for leg in layout.legs}
        self._points = {point.id: point for point in layout.points}
        self._graph: nx.Graph[str] = nx.Graph()
        self._graph.add_nodes_from(self._points)
        for leg in sorted(layout.legs, key=lambda leg: leg.id):
            if leg.rule == "forbidden":
                continue
            cost = self.length_m(leg.id) * _cost_x(leg, catalogue)
            known = self._graph.get_edge_data(leg.a, leg.b)
            if known is None or cost < known["cost"]:
                self._graph.add_edge(leg.a, leg.b, cost=cost, leg=leg.id)
        self._from: dict[str, tuple[dict[str, float], dict[str, list[str]]]] = {}

    def length_m(self, leg_id: str) -> float:
        """Return a leg's length: taped, or straight between its points. [m]"""
        leg = self.legs[leg_id]
        if leg.taped_m is not None:
            return leg.taped_m
        return max(0.02, distance_m(self._points[leg.a], self._points[leg.b]))

    def measured_mohm(self, point_id: str) -> float | None:
        """Return an earth point's own measured resistance, or None. [mΩ]"""
        point = self._points.get(point_id)
        return point.measured_mohm if point is not None else None

    def way(self, start: str, end: str, via: tuple[str, ...] = ()) -> Way | None:
        """Return the cheapest allowed way, through ``via`` in order; None when there is none."""
        points: list[str] = [start]
        cost = 0.0
        for a, b in zip((start, *via), (*via, end), strict=True):
            costs, paths = self._paths(a)
            if b not in paths:
                return None
            points += paths[b][1:]
            cost += costs[b]
        legs = tuple(self._graph.edges[a, b]["leg"] for a, b in pairwise(points))
        leg_m = tuple(self.length_m(leg) for leg in legs)
        return Way(points=tuple(points), legs=legs, leg_m=leg_m, length_m=sum(leg_m), cost=cost)

    def nearest_earth(self, start: str) -> Way | None:
        """Return the cheapest way from a point to an earth point."""
        costs, _ = self._paths(start)
        earths = [p.id for p in self.layout.points if p.is_earth and p.id in costs]
        if not earths:
            return None
        return self.way(start, min(earths, key=lambda p: (costs[p], p)))

    def _paths(self, start: str) -> tuple[dict[str, float], dict[str, list[str]]]:
        if start not in self._from:
            found = nx.single_source_dijkstra(self._graph, start, weight="cost")
            self._from[start] = (dict(found[0]), dict(found[1]))
        return self._from[start]


def distance_m(a: LoomPoint, b: LoomPoint) -> float:
    """Return the distance along the vehicle's axes, as looms follow them. [m]"""
    straight = math.dist((a.x_m, a.y_m, a.z_m), (b.x_m, b.y_m, b.z_m))
    along_axes = abs(a.x_m - b.x_m) + abs(a.y_m - b.y_m) + abs(a.z_m - b.z_m)
    return (straight + along_axes) / 2


def _cost_x(leg: LoomLeg, catalogue: Catalogue) -> float:
    zone = catalogue.zones.get(leg.zone)
    factor = HOT_COST_X if zone is not None and zone.ambient_c >= HOT_ZONE_C else 1.0
    return factor * (PREFERRED_COST_X if leg.rule == "preferred" else 1.0)
