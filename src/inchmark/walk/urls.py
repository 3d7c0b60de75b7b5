"""Addresses of the walk."""

from django.urls import path

from inchmark.walk.views import (
    counts,
    desk,
    field,
    logs,
    photos,
    sources,
    stays,
    thumb,
    tokens,
    tracks,
    walks,
)

WALKS = [
    path("", walks.walks, name="walks"),
    path("new/", walks.walk_add, name="walk-add"),
]
WALK = [
    path("counts/", counts.counts_latest, name="counts-latest"),
    path("<int:walk_id>/counts/", counts.counts, name="counts"),
    path("<int:walk_id>/units/", walks.units_name, name="units-name"),
    path("<int:walk_id>/", walks.walk, name="walk"),
    path("<int:walk_id>/change/", walks.walk_edit, name="walk-edit"),
    path("<int:walk_id>/log/", walks.log_upload, name="log-upload"),
    path("<int:walk_id>/boards/", walks.boards_walk, name="boards-walk"),
    path("<int:walk_id>/names/", logs.names, name="names"),
    path("<int:walk_id>/timeline/", stays.stays, name="stays"),
    path("<int:walk_id>/sources/", sources.sources, name="sources"),
    path("<int:walk_id>/serial/", sources.serial, name="serial"),
    path("<int:walk_id>/lines/", sources.lines, name="lines"),
    path("files/<int:file_id>/clock/", stays.clock_set, name="clock-set"),
    path("<int:walk_id>/timeline/move/", stays.stay_move, name="stay-move"),
    path("<int:walk_id>/token/", tokens.token, name="token"),
    path("<int:walk_id>/silent/", walks.silent_visit, name="silent-visit"),
]
LIVE = [
    path("<int:walk_id>/live/", desk.desk, name="desk"),
    path("<int:walk_id>/live/events/", desk.events, name="events"),
    path("<int:walk_id>/live/marks/", desk.marks, name="marks"),
    path("<int:walk_id>/live/next/", desk.next_place, name="next-place"),
    path("<int:walk_id>/photos/", photos.photo_add, name="photo-add"),
    path("photos/<int:photo_id>/", photos.photo, name="photo"),
]
THUMB = [
    path("<int:walk_id>/thumb/", thumb.thumb, name="thumb"),
    path("<int:walk_id>/thumb/worker.js", thumb.worker, name="thumb-worker"),
    path("<int:walk_id>/thumb/manifest.webmanifest", thumb.manifest, name="thumb-manifest"),
    path("<int:walk_id>/thumb/presses/", thumb.presses, name="presses"),
    path("<int:walk_id>/thumb/positions/", thumb.positions, name="positions"),
]
TRACKS = [
    path("<int:walk_id>/tracks/", tracks.tracks, name="tracks"),
    path("<int:walk_id>/tracks/measure/", tracks.tracks_measure, name="tracks-measure"),
    path("<int:walk_id>/tracks/cut/", tracks.tracks_cut, name="tracks-cut"),
    path("<int:walk_id>/tracks/clocks/", tracks.tracks_clocks, name="tracks-clocks"),
    path("tracks/<int:track_id>/", tracks.track_change, name="track-change"),
    path("files/<int:file_id>/track/", tracks.track_from_log, name="track-from-log"),
]
PASSES = [
    path("<int:walk_id>/passes/", field.pass_add, name="pass-add"),
    path("passes/<int:pass_id>/end/", field.pass_end, name="pass-end"),
]
FILES = [
    path("files/<int:file_id>/bad-lines/", walks.bad_lines, name="bad-lines"),
    path("files/<int:file_id>/again/", walks.file_again, name="file-again"),
    path("files/<int:file_id>/recipe/", logs.recipe, name="recipe"),
    path("files/<int:file_id>/aside/", logs.file_aside, name="file-aside"),
    path("files/<int:file_id>/original/", walks.file_original, name="file-original"),
]
urlpatterns = [*WALKS, *WALK, *LIVE, *THUMB, *TRACKS, *PASSES, *FILES]
