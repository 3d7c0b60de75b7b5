"""Stops, paths and the field day as the core knows them."""

from inchmark.plan.records import clock, day, drawings, maps, paths, places, stops
from inchmark.plan.records.stops import (
    facts_of,
    geodesic_m,
    predicted_range,
    stops_of,
)

__all__ = [
    "clock",
    "day",
    "drawings",
    "facts_of",
    "geodesic_m",
    "maps",
    "paths",
    "places",
    "predicted_range",
    "stops",
    "stops_of",
]
