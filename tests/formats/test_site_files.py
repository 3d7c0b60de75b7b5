"""Files of a site: GPX, GeoJSON, terrain grids."""

import json

import numpy as np
import pytest
import rasterio
from rasterio.transform import from_origin

from inchmark.core.geodesy import Place
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.features import read_features
from inchmark.formats.places import read_places
from inchmark.formats.terrain import read_terrain

GPX = '<gpx version="1.1" creator="t" xmlns="http://www.topografix.com/GPX/1/1">{}</gpx>'
WAYPOINTS = GPX.format(
    '<wpt lat="47.501" lon="-21.0"><ele>3.5</ele><name>sluice</name></wpt>'
    '<wpt lat="47.502" lon="-21.0"/>'
)
TRACK = GPX.format(
    "<trk><trkseg>"
    + "".join(f'<trkpt lat="{47.5 + i * 0.0005}" lon="-21.0"/>' for i in range(21))
    + "</trkseg></trk>"
)
HERE = Place(lat_deg=47.5, lon_deg=-21.0)


def test_waypoints_are_stops_as_they_are():
    rows = read_places(WAYPOINTS.encode(), "marsh.gpx")
    assert [(r.stop, r.name, r.height_m) for r in rows] == [("1", "sluice", 3.5), ("2", "", None)]
    assert rows[0].lat == 47.501


def test_a_track_becomes_stops_at_even_distances():
    """20 steps of 0.0005 degrees of latitude are 55.6 m each (WGS 84 near 47.5 degrees)."""
    rows = read_places(TRACK.encode(), "marsh.gpx", every_m=100.0)
    assert len(rows) == 12
    apart = np.diff([row.lat for row in rows]) * 111_190
    assert apart == pytest.approx(np.full(11, 100.0), abs=0.5)


def test_a_track_becomes_stops_at_each_doubling():
    rows = read_places(TRACK.encode(), "marsh.gpx", doubling_from_m=100.0, fixed=HERE)
    away = [(row.lat - 47.5) * 111_190 for row in rows]
    assert [round(metres / 55.6) for metres in away] == [2, 4, 8, 15]


def test_points_of_a_geojson_are_stops():
    feature = {
        "type": "Feature",
        "properties": {"name": "gate"},
        "geometry": {"type": "Point", "coordinates": [-21.0, 47.501, 2.0]},
    }
    found = {"type": "FeatureCollection", "features": [feature]}
    (row,) = read_places(json.dumps(found).encode(), "gates.geojson")
    assert (row.name, row.lat, row.lon, row.height_m) == ("gate", 47.501, -21.0, 2.0)


@pytest.mark.parametrize(
    ("data", "name", "options", "words"),
    [
        (b"hello", "a.gpx", {}, "no GPX"),
        (b"\xff\xfe", "a.gpx", {}, "no GPX"),
        (GPX.format("").encode(), "a.gpx", {}, "holds no point"),
        (TRACK.encode(), "a.gpx", {}, "Say every how many metres"),
        (TRACK.encode(), "a.gpx", {"every_m": 0.2}, "1 m apart"),
        (TRACK.encode(), "a.gpx", {"every_m": 2.0}, "over 200 stops"),
        (TRACK.encode(), "a.gpx", {"doubling_from_m": 5.0}, "Place the fixed end first"),
        (TRACK.encode(), "a.gpx", {"doubling_from_m": 5e4, "fixed": HERE}, "never gets 50000 m"),
        (
            WAYPOINTS.replace('lat="47.501" lon="-21.0"', 'lat="0" lon="0"').encode(),
            "a.gpx",
            {},
            "lies at 0, 0",
        ),
        (b"{", "a.geojson", {}, "no JSON"),
        (b"[]", "a.geojson", {}, "no GeoJSON object"),
        (b'{"type": "Point", "coordinates": ["x"]}', "a.geojson", {}, "no longitude"),
        (
            b'{"type": "Point", "coordinates": [200, 10]}',
            "a.geojson",
            {},
            "no longitude and latitude",
        ),
    ],
)
def test_a_file_without_places_says_why(data, name, options, words):
    with pytest.raises(UnreadableFileError, match=words):
        read_places(data, name, **options)


HEIGHTS = np.array([[1, 2, 3], [4, 5, 6], [7, 8, 9]], dtype=np.float32)


def geotiff(heights=HEIGHTS, **changes):
    options = {
        "driver": "GTiff",
        "height": 3,
        "width": 3,
        "count": 1,
        "dtype": "float32",
        "crs": "EPSG:4326",
        "transform": from_origin(-21.0, 47.503, 0.001, 0.001),
    } | changes
    with rasterio.MemoryFile() as memory:
        with memory.open(**options) as target:
            target.write(heights, 1)
        return memory.read()


ASCII = "ncols 3\nnrows 3\nxllcorner -21.0\nyllcorner 47.5\ncellsize 0.001\n1 2 3\n4 5 6\n7 8 9\n"


@pytest.mark.parametrize(("data", "name"), [(geotiff(), "m.tif"), (ASCII.encode(), "m.asc")])
def test_a_grid_lies_where_its_file_says(data, name):
    grid = read_terrain(data, name)
    assert grid.heights_m.tolist() == HEIGHTS.tolist()
    assert grid.height_m(47.5025, -20.9995) == pytest.approx(1.0)
    assert grid.height_m(47.5005, -20.9975) == pytest.approx(9.0)


def test_another_projection_is_warped_to_degrees():
    """UTM zone 27N around 500 km east: 21 degrees west, its central meridian."""
    utm = geotiff(
        np.full((3, 3), 12.0, dtype=np.float32),
        crs="EPSG:32627",
        transform=from_origin(500_000, 5_261_000, 100, 100),
    )
    grid = read_terrain(utm, "m.tif")
    assert grid.west_deg == pytest.approx(-21.0, abs=0.01)
    assert np.nanmax(grid.heights_m) == pytest.approx(12.0)


def test_an_hgt_says_where_it_lies_by_its_name():
    heights = np.full((1201, 1201), 7, dtype=">i2")
    grid = read_terrain(heights.tobytes(), "N47W021.hgt")
    assert grid.height_m(47.5, -20.5) == pytest.approx(7.0)
    with pytest.raises(UnreadableFileError, match="by its name"):
        read_terrain(heights.tobytes(), "marsh.hgt")


@pytest.mark.parametrize(
    ("data", "name", "words"),
    [
        (b"not a picture", "m.tif", "no terrain grid"),
        (b"", "m.tif", "no terrain grid"),
        (geotiff(), "m.png", "no terrain grid"),
        (geotiff(crs=None), "m.tif", "does not say where it lies"),
        (geotiff(np.full((3, 3), np.nan, dtype=np.float32)), "m.tif", "holds no height"),
        (b"x" * (40 * 1024 * 1024 + 1), "m.tif", "over 40 MB"),
    ],
)
def test_a_file_that_is_no_terrain_says_so(data, name, words):
    with pytest.raises(UnreadableFileError, match=words):
        read_terrain(data, name)


def feature(kind, coordinates, **properties):
    geometry = {"type": kind, "coordinates": coordinates}
    return {"type": "Feature", "properties": properties, "geometry": geometry}


SQUARE = [[-21.0, 47.5], [-20.99, 47.5], [-20.99, 47.51], [-21.0, 47.5]]


def test_features_of_every_kind_are_read_with_name_and_cover():
    data = {
        "type": "FeatureCollection",
        "features": [
            feature("Point", [-21.0, 47.5, 3.0], name="gauge"),
            feature("MultiLineString", [[[-21.0, 47.5], [-20.9, 47.5]], [[-21, 47], [-21, 48]]]),
            feature("Polygon", [SQUARE], name="carr", cover="Trees"),
            feature("LineString", SQUARE[:2], cover="trees"),
            {
                "type": "Feature",
                "properties": None,
                "geometry": {
                    "type": "GeometryCollection",
                    "geometries": [{"type": "Point", "coordinates": [-21, 47.5]}],
                },
            },
        ],
    }
    found = read_features(json.dumps(data).encode())
    assert [one.kind for one in found] == ["mark", "line", "line", "area", "line", "mark"]
    assert found[0].rings == [[(47.5, -21.0)]]
    assert (found[3].name, found[3].cover) == ("carr", "trees")
    assert found[4].cover == ""  # a line covers nothing


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"{", "no JSON"),
        (b"[]", "no GeoJSON object"),
        (json.dumps(feature("Point", [200, 47])), "no longitude and latitude"),
        (json.dumps(feature("Point", [int("9" * 400), 47])), "has no longitude and latitude"),
        (json.dumps(feature("Point", ["x", 47])), "has no longitude and latitude"),
        (json.dumps(feature("LineString", [])), "has no coordinates"),
        (json.dumps(feature("Polygon", None)), "has no coordinates"),
        (json.dumps(feature("LineString", [[0.1, 0.1]] * 20_001)), "over 20000 points"),
    ],
)
def test_bad_features_give_a_sentence(data, words):
    with pytest.raises(UnreadableFileError, match=words):
        read_features(data if isinstance(data, bytes) else data.encode())


@pytest.mark.parametrize("name", ["a\x00b", "a\ud800b", "a\u202eb"])
def test_names_that_cannot_be_kept_lose_what_cannot(name):
    one = json.dumps(
        {
            "type": "Feature",
            "properties": {"name": name},
            "geometry": {"type": "Point", "coordinates": [-21, 47.5]},
        }
    )
    found = read_places(one.encode(), "a.geojson", fixed=HERE)
    assert found[0].name == "ab"


@pytest.mark.parametrize("name", ["N99W999.hgt", "S91E000.hgt", "N47W181.hgt"])
def test_a_tile_named_for_no_place_on_earth_is_refused(name):
    with pytest.raises(UnreadableFileError, match="latitude up to 90, longitude up to 180"):
        read_terrain(b"\x00" * (2 * 1201 * 1201), name)
