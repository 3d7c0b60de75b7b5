"""The site from above."""

from dataclasses import replace
from functools import partial

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET, require_POST

from inchmark.pages.keeping import done, dragged, taken
from inchmark.pages.parts import allow_pictures, go_to, page_or_part, wants_part
from inchmark.people.services.rates import at_most
from inchmark.plan import services
from inchmark.plan.adapters.next_stop import place_for, place_words, wanted_of
from inchmark.plan.adapters.places import FixedEnd, fixed_ends
from inchmark.plan.adapters.predictions import best_predictions
from inchmark.plan.adapters.stops import stops_of
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.adapters.walked import around_of
from inchmark.plan.drawings.maps import OnMap, map_data, tiles_origin
from inchmark.plan.figures.stops import measured_stops
from inchmark.plan.figures.walls import on_map, wall_rows
from inchmark.plan.forms import FeaturesForm, MoveForm
from inchmark.plan.models import Design, SiteFeatures, SiteMap, SitePoint, Stop, Terrain
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.shelf.models import Rig
from inchmark.studies.access import study_for
from inchmark.studies.models import Study


@require_GET
@login_required
def site_map(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the site from above: terrain, stops, and a rig's map if one is drawn."""
    study = study_for(request, study_id)
    return _map(request, study)


def _map(
    request: HttpRequest,
    study: Study,
    *,
    features_form: FeaturesForm | None = None,
    status: int = 200,
) -> HttpResponse:
    rigs = rigs_of(study)
    asked = request.GET.get("rig", "")
    rig = next((one for one in rigs if one.letter == asked), rigs[0] if rigs else None)
    whole = not wants_part(request)
    found, ends = _on_map(study, rig, whole=whole)
    drawn, site = found.drawn, found.site
    walls = wall_rows(site.walls_drawn if site else [], rig.frequency_hz if rig else None)
    found = replace(found, walls=on_map(walls))
    context = {
        "study": study,
        "room": "plan",
        "page": "map",
        "site": site,
        "stops": measured_stops(found.stops, site),
        "receivers": ends[1:],
        "nodes": found.nodes,
        "next_place": found.next_place,
        "next_words": place_words(found.next_place),
        "next_why": found.next_why,
        "walked": around_of(study, site).walked,
        "terrain": found.terrain,
        "walls": walls,
        "features": found.features,
        "features_form": features_form or FeaturesForm(),
        "rigs": rigs,
        "rig": rig,
        "drawn": drawn,
        "busy": bool(drawn and drawn.state in (Design.WAITING, Design.RUNNING)),
        "stale": bool(drawn and drawn.revision < study.revision),
        "data": map_data(study, found) if whole else None,
    }
    response = page_or_part(
        request, "plan/map.html", "plan/_map_state.html", context, status=status
    )
    return allow_pictures(response, tiles_origin(site))


def _on_map(study: Study, rig: Rig | None, *, whole: bool) -> tuple[OnMap, list[FixedEnd]]:
    """Return what is on the map; while it is being drawn needed places are not worked out."""
    site, points = services.site_of(study), list(study.points.all())
    ends = fixed_ends(site, points)
    needed = [one for one in points if one.kind == SitePoint.NODE] if rig and whole else []
    grid = grid_for(study) if needed else None
    stops, wanted = stops_of(study), wanted_of(study) if whole else None
    found = OnMap(
        site=site,
        stops=stops,
        next_place=place_for(wanted, site, stops) if wanted else None,
        next_why=wanted.why if wanted else "",
        points=points,
        terrain=Terrain.objects.filter(study=study).defer("heights", "cover").first(),
        features=SiteFeatures.objects.filter(study=study).first(),
        drawn=SiteMap.objects.filter(study=study, rig=rig).first() if rig else None,
        nodes=best_predictions(
            needed, [rig] if rig else [], site, grid, ends, around=around_of(study, site)
        ),
    )
    return found, ends


@require_POST
@login_required
@at_most(20)
def features_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keep the features of a file."""
    study, form = study_for(request, study_id), FeaturesForm(request.POST, request.FILES)
    if not taken(request, form, partial(services.features.keep_features, study), "is drawn."):
        return _map(request, study, features_form=form, status=422)
    return go_to(request, "plan:map", study_id)


@require_POST
@login_required
def features_remove(request: HttpRequest, study_id: int) -> HttpResponse:
    """Take the features off the map."""
    services.features.remove_features(study_for(request, study_id))
    return go_to(request, "plan:map", study_id)


@require_POST
@login_required
@at_most(12)
def map_draw(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Queue the map of a rig."""
    study = study_for(request, study_id)
    rig = get_object_or_404(study.rigs.all(), pk=rig_id)
    done(request, lambda: services.maps.queue_map(study, rig))
    return go_to(request, f"{request.path.split('/map/')[0]}/map/?rig={rig.letter}")


@require_POST
@login_required
def stop_move(request: HttpRequest, study_id: int, stop_id: int) -> HttpResponse:
    """Move a stop to where it was dragged, and say how far that is."""
    stop = get_object_or_404(Stop.objects.editable_by(request.user), pk=stop_id, study_id=study_id)
    return dragged(MoveForm(request.POST), partial(services.maps.move_stop, stop))
