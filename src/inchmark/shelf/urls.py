"""Addresses of the shelf."""

from django.urls import path

from inchmark.shelf.views import bench, beside, files, ladders, parts, rigs, settings, sweeps

RIGS = [
    path("", rigs.rigs, name="rigs"),
    path("rigs/new/", rigs.rig_add, name="rig-add"),
    path("rigs/<int:rig_id>/", rigs.rig_edit, name="rig-edit"),
    path("rigs/<int:rig_id>/copy/", rigs.rig_copy, name="rig-copy"),
    path("rigs/<int:rig_id>/remove/", rigs.rig_remove, name="rig-remove"),
    path("beside/", beside.rigs_beside, name="beside"),
    path("beside/antennas/", beside.antennas_beside, name="beside-antennas"),
]
PARTS = [
    path("parts/<str:kind>/", parts.parts, name="parts"),
    path("parts/<str:kind>/new/", parts.part_add, name="part-add"),
    path("parts/<str:kind>/<int:part_id>/", parts.part, name="part"),
    path("parts/<str:kind>/<int:part_id>/remove/", parts.part_remove, name="part-remove"),
    path("parts/<str:kind>/<int:part_id>/archive/", parts.part_archive, name="part-archive"),
]
SETTINGS = [
    path("modules/<int:module_id>/rssi/", parts.module_calibrate, name="module-calibrate"),
    path("modules/<int:module_id>/settings/new/", settings.setting_add, name="setting-add"),
    path("settings/<int:setting_id>/", settings.setting_edit, name="setting-edit"),
    path("settings/<int:setting_id>/remove/", settings.setting_remove, name="setting-remove"),
]
FILES = [
    path("rules/", files.rules, name="rules"),
    path("files/", files.files, name="files"),
    path("files/shelf.json", files.export, name="export"),
    path("files/shelf.schema.json", files.schema, name="schema"),
]
SWEEPS = [
    path("sweeps/", sweeps.sweeps_page, name="sweeps"),
    path("sweeps/new/", sweeps.sweep_add, name="sweep-add"),
    path("sweeps/<int:sweep_id>/", sweeps.sweep_page, name="sweep"),
    path("sweeps/<int:sweep_id>/file/", sweeps.sweep_file, name="sweep-file"),
    path("sweeps/<int:sweep_id>/remove/", sweeps.sweep_remove, name="sweep-remove"),
]
BENCH = [
    path("centrings/", bench.centrings, name="centrings"),
    path("centrings/<int:check_id>/follow/", bench.centring_follow, name="centring-follow"),
    path("close-ranges/", bench.close_ranges, name="close-ranges"),
    path(
        "close-ranges/<int:check_id>/answer/", bench.close_range_answer, name="close-range-answer"
    ),
    path(
        "close-ranges/<int:check_id>/finding/",
        bench.close_range_finding,
        name="close-range-finding",
    ),
    path("traces/", bench.traces, name="traces"),
    path("traces/<int:check_id>/levels/", bench.trace_levels, name="trace-levels"),
    path("traces/<int:check_id>/file/", bench.trace_file, name="trace-file"),
    path("checks/<str:page>/<int:check_id>/remove/", bench.check_remove, name="check-remove"),
    path("ladders/", ladders.ladders, name="ladders"),
    path("ladders/<int:check_id>/use/", ladders.ladder_use, name="ladder-use"),
]
urlpatterns = [*RIGS, *PARTS, *SETTINGS, *FILES, *SWEEPS, *BENCH]
