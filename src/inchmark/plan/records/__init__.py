"""Stops, paths and the field day as the core knows them."""

from inchmark.plan.records import day, maps, paths, stops
from inchmark.plan.records.stops import (
    MIDDLE_EXPONENT,
    PredictedRange,
    facts_of,
    geodesic_m,
    predicted_range,
)

__all__ = [
    "MIDDLE_EXPONENT",
    "PredictedRange",
    "day",
    "facts_of",
    "geodesic_m",
    "maps",
    "paths",
    "predicted_range",
    "stops",
]
