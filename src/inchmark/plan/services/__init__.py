"""Verbs of the plan: site and stops, terrain, design."""

from inchmark.plan.services import design, features, maps, points, terrain, walls
from inchmark.plan.services.site import (
    StopsRead,
    add_places_file,
    add_stops_file,
    place_fixed_end,
    remove_stop,
    save_stop,
    site_of,
)

__all__ = [
    "StopsRead",
    "add_places_file",
    "add_stops_file",
    "design",
    "features",
    "maps",
    "place_fixed_end",
    "points",
    "remove_stop",
    "save_stop",
    "site_of",
    "terrain",
    "walls",
]
