"""Features of a map from GeoJSON: lines, areas and marks with their names, to be drawn as they are.

The format is RFC 7946: longitude before latitude, WGS 84. An area whose properties name a `cover`
(reeds, trees or houses) stands on the terrain. A line or the outline of an area whose properties
name a `wall` (what it is made of) or a `loss_db` is a wall that paths cross.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from inchmark.core.propagation.walls import KINDS, THICKEST_M, THINNEST_M
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.geojson import kept_name, position, read_object

MOST_POINTS = 20_000
DEEPEST = 4  # collections within collections
COVERS = ("reeds", "trees", "houses")
DIGITS = 6  # of a degree: a tenth of a metre

Points = list[tuple[float, float]]  # latitude, longitude [degrees]


@dataclass(frozen=True, slots=True, kw_only=True)
class WallMade:
    """What a wall is made of, how thick [m] where that is said, or what a crossing costs [dB]."""

    kind: str
    thickness_m: float | None = None
    loss_db: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Feature:
    """A mark (one ring of one point), a line (one ring) or an area (outer ring, then holes)."""

    kind: str  # mark, line or area
    name: str
    rings: list[Points]
    cover: str = ""
    wall: WallMade | None = None


def read_features(data: bytes) -> list[Feature]:
    """Return the features of a GeoJSON file.

    Raises
    ------
    UnreadableFileError
        The file is no GeoJSON, holds nothing to draw, too much, or a place off the globe.
    """
    found = read_object(data)
    drawn = islice(_geometries(found), MOST_POINTS + 1)
    features = [one for geometry, properties in drawn for one in _drawn(geometry, properties)]
    if next(drawn, None) is not None:
        raise UnreadableFileError(f"The file holds over {MOST_POINTS} features. Simplify it first.")
    if not features:
        raise UnreadableFileError("The file holds no point, line or area to draw.")
    if sum(len(ring) for one in features for ring in one.rings) > MOST_POINTS:
        raise UnreadableFileError(f"The file holds over {MOST_POINTS} points. Simplify it first.")
    return features


Properties = dict[str, Any]


def _geometries(
    found: Any, properties: Properties | None = None, depth: int = 0
) -> Iterator[tuple[dict[str, Any], Properties]]:
    if not isinstance(found, dict) or depth > DEEPEST:
        return
    kind = found.get("type")
    if kind == "FeatureCollection":
        inside = found.get("features")
    elif kind == "GeometryCollection":
        inside = found.get("geometries")
    elif kind == "Feature":
        own = found.get("properties")
        properties = own if isinstance(own, dict) else {}
        inside = [found.get("geometry")]
    else:
        yield found, properties or {}
        return
    for one in inside if isinstance(inside, list) else []:
        yield from _geometries(one, properties, depth + 1)


_KINDS = {"Point": ("mark", 0), "LineString": ("line", 1), "Polygon": ("area", 2)}


def _drawn(geometry: dict[str, Any], properties: Properties) -> Iterator[Feature]:
    kind, coordinates = str(geometry.get("type")), geometry.get("coordinates")
    if kind.startswith("Multi"):
        parts = coordinates if isinstance(coordinates, list) else []
        for part in parts:
            yield from _drawn({"type": kind.removeprefix("Multi"), "coordinates": part}, properties)
    elif kind in _KINDS:
        what, depth = _KINDS[kind]
        rings = {0: [[coordinates]], 1: [coordinates], 2: coordinates}[depth]
        cover = str(properties.get("cover") or "").lower()
        yield Feature(
            kind=what,
            name=kept_name(properties.get("name")),
            rings=[_points(ring) for ring in _listed(rings)],
            cover=cover if what == "area" and cover in COVERS else "",
            wall=_wall(properties) if what != "mark" else None,
        )


def _wall(properties: Properties) -> WallMade | None:
    """Return what a wall is made of; None where the properties name none."""
    kind = str(properties.get("wall") or "").strip().lower()
    loss = _number(properties, "loss_db", 0, 100)
    if not kind and loss is None:
        return None
    if kind not in KINDS and loss is None:
        known = ", ".join(one for one in KINDS if one != "typed")
        raise UnreadableFileError(
            f"“{kept_name(kind)}” is nothing a wall is known to be made of; {known} are. Or give its loss_db, what one crossing costs."
        )
    return WallMade(
        kind=kind if kind in KINDS else "typed",
        thickness_m=_number(properties, "thickness_m", THINNEST_M, THICKEST_M),
        loss_db=loss,
    )


def _number(properties: Properties, name: str, low: float, high: float) -> float | None:
    found = properties.get(name)
    if found is None or found == "":
        return None
    if isinstance(found, bool) or not isinstance(found, int | float) or not low <= found <= high:
        told = kept_name(str(found))
        raise UnreadableFileError(
            f"“{told}” is no {name} of a wall; a number from {low:g} to {high:g} is."
        )
    return float(found)


def _listed(found: Any) -> list[Any]:
    if not isinstance(found, list) or not found:
        raise UnreadableFileError("A feature has no coordinates.")
    return found


def _points(ring: Any) -> Points:
    return [_point(one) for one in _listed(ring)]


def _point(found: Any) -> tuple[float, float]:
    lat, lon, _ = position(found)
    return round(lat, DIGITS), round(lon, DIGITS)
