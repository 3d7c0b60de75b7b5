"""Addresses of the plan."""

from django.urls import path

from inchmark.plan.views import day, maps, paths, points, stops, walls

STOPS = [
    path("", stops.stops, name="stops"),
    path("fixed-end/", stops.site_edit, name="site-edit"),
    path("stops/new/", stops.stop_add, name="stop-add"),
    path("stops/file/", stops.stops_file, name="stops-file"),
    path("stops/<int:stop_id>/move/", maps.stop_move, name="stop-move"),
    path("stops/<int:stop_id>/", stops.stop_edit, name="stop-edit"),
    path("stops/<int:stop_id>/remove/", stops.stop_remove, name="stop-remove"),
]
PLACES = [
    path("places/new/", points.point_add, name="point-add"),
    path("places/<int:point_id>/", points.point_edit, name="point-edit"),
    path("places/<int:point_id>/remove/", points.point_remove, name="point-remove"),
    path("places/<int:point_id>/move/", points.point_move, name="point-move"),
]
WALLS = [
    path("walls/new/", walls.wall_add, name="wall-add"),
    path("walls/<int:wall_id>/", walls.wall_edit, name="wall-edit"),
    path("walls/<int:wall_id>/remove/", walls.wall_remove, name="wall-remove"),
]
MAP = [
    path("map/features/", maps.features_add, name="features-add"),
    path("map/features/remove/", maps.features_remove, name="features-remove"),
    path("map/", maps.site_map, name="map"),
    path("map/<int:rig_id>/draw/", maps.map_draw, name="map-draw"),
    path("terrain/", stops.terrain_add, name="terrain-add"),
    path("terrain/remove/", stops.terrain_remove, name="terrain-remove"),
]
PREDICTED = [
    path("predicted/", paths.predicted, name="predicted"),
    path("stops/<int:stop_id>/path/", paths.path, name="path"),
    path("places/<int:point_id>/path/", paths.point_path, name="point-path"),
]
DAY = [
    path("design/", day.design, name="design"),
    path("design/power/", day.power, name="power"),
    path("design/frames/", day.frames_take, name="frames-take"),
    path("design/shuffle/", day.shuffle, name="shuffle"),
    path("day/", day.day, name="day"),
    path("day/cautions/", day.cautions_read, name="cautions-read"),
    path("run-sheet/", day.run_sheet, name="run-sheet"),
]
urlpatterns = [*STOPS, *PLACES, *WALLS, *MAP, *PREDICTED, *DAY]
