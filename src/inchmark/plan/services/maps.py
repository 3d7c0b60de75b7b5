"""Verbs on maps: queue one, draw one, move a stop on it."""

from __future__ import annotations

from collections.abc import Sequence

from django.core.exceptions import ValidationError
from django.db import transaction
from procrastinate.contrib.django import app

from inchmark.core.geodesy import destination
from inchmark.core.margin_map import Box, best_law_map, best_map
from inchmark.plan.adapters.paths import law_words, link_of, surroundings_of
from inchmark.plan.adapters.places import FixedEnd, fixed_ends
from inchmark.plan.adapters.terrain import grid_of
from inchmark.plan.drawings.maps import bands_of
from inchmark.plan.models import Design, Site, SiteMap, SiteWall, Stop, Terrain
from inchmark.plan.services.site import save_stop, site_of
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study

SIZE = 512
TERRAIN = "terrain"
LONE_M = 500.0  # shown around a fixed end that nothing else is known of
TELL_EVERY = 0.05  # of the cells


@transaction.atomic
def queue_map(study: Study, rig: Rig) -> SiteMap:
    """Queue the map of a rig.

    Raises
    ------
    ValidationError
        The fixed end has no coordinates, or terrain is wanted and there is none.
    """
    site = site_of(study)
    over_terrain = site is not None and site.model == TERRAIN
    if over_terrain and not Terrain.objects.filter(study=study).exists():
        raise ValidationError(
            "Bring a terrain file first, since paths are predicted over terrain; or choose another way of predicting them at the fixed end."
        )
    if not any(end.place for end in ends_of(study, site)):
        raise ValidationError("Give the fixed end coordinates first.")
    SiteMap.objects.filter(study=study, rig=rig).delete()
    drawn = SiteMap.objects.create(study=study, rig=rig, revision=study.revision)
    app.configure_task("inchmark.plan.tasks.draw_map", queue="plan").defer(map_id=drawn.pk)
    return drawn


def ends_of(study: Study, site: Site | None) -> list[FixedEnd]:
    """Return the fixed end and the further receivers of a study."""
    return fixed_ends(site, list(study.points.all()))


def draw_map(map_id: int, *, size: int = SIZE) -> None:
    """Draw a queued map and keep its bands."""
    drawn = SiteMap.objects.select_related("study").filter(pk=map_id).first()
    if drawn is None:
        return
    study, site = drawn.study, site_of(drawn.study)
    terrain = None
    if site is not None and site.model == TERRAIN:
        terrain = Terrain.objects.filter(study=study).first()
    ends = [end for end in ends_of(study, site) if end.place]
    if site is None or not ends or (site.model == TERRAIN and terrain is None):
        _fail(drawn, "The terrain or the fixed end's place was taken away meanwhile.")
        return
    rig = study.rigs.with_parts().get(pk=drawn.rig_id)
    told = [0.0]

    def tell(share: float) -> None:
        if share - told[0] >= TELL_EVERY:
            told[0] = share
            SiteMap.objects.filter(pk=map_id).update(done=share, state=Design.RUNNING)

    links = [(end.place, link_of(rig, end)) for end in ends if end.place]
    around = surroundings_of(site)
    try:
        if terrain is not None:
            found = best_map(grid_of(terrain), links, around, size=size, progress=tell)
        else:
            found = best_law_map(_box(study, ends), links, around, size=size, progress=tell)
    except ValueError as wrong:
        _fail(drawn, f"Not drawn: {wrong}.")
        return
    SiteMap.objects.filter(pk=map_id).update(
        state=Design.DONE, done=1.0, bands=bands_of(found), words=law_words(around)
    )


def _box(study: Study, ends: Sequence[FixedEnd]) -> Box:
    """Return what a map without terrain shows: all that has coordinates, and the needed distance."""
    places = [end.place for end in ends if end.place]
    spots = [(one.lat_deg, one.lon_deg) for one in places]
    spots += study.stops.filter(lat__isnull=False).values_list("lat", "lon")
    spots += study.points.values_list("lat", "lon")
    for line in SiteWall.objects.filter(study=study).values_list("points", flat=True):
        spots += [(lat, lon) for lat, lon in line]
    metres = study.needed_m or (0.0 if len(spots) > 1 else LONE_M)
    if metres:
        around = [destination(places[0], turn, metres) for turn in (0.0, 90.0, 180.0, 270.0)]
        spots += [(one.lat_deg, one.lon_deg) for one in around]
    return Box.around(spots)


def _fail(drawn: SiteMap, problem: str) -> None:
    SiteMap.objects.filter(pk=drawn.pk).update(state=Design.FAILED, problem=problem)


@transaction.atomic
def move_stop(stop: Stop, lat: float, lon: float) -> float:
    """Move a stop and return its distance [m]; a distance measured by coordinates follows, a typed one stays."""
    stop.lat, stop.lon = lat, lon
    if stop.method == "coordinates":
        stop.distance_m = None  # type: ignore[assignment]  # measured anew on saving
    return save_stop(stop.study, stop).distance_m
