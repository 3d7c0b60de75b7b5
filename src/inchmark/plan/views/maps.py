"""The site from above."""

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET, require_POST

from inchmark.pages.parts import go_to, page_or_part
from inchmark.plan import records, services
from inchmark.plan.forms import MoveForm
from inchmark.plan.models import Design, SiteMap, Stop, Terrain
from inchmark.studies.models import Study


@require_GET
@login_required
def site_map(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the site from above: terrain, stops, and a rig's map if one is drawn."""
    study = get_object_or_404(Study.objects.visible_to(request.user), pk=study_id)
    rigs = list(study.rigs.all())
    asked = request.GET.get("rig", "")
    rig = next((one for one in rigs if one.letter == asked), rigs[0] if rigs else None)
    drawn = SiteMap.objects.filter(study=study, rig=rig).first() if rig else None
    site, stops = services.site_of(study), list(study.stops.all())
    terrain = Terrain.objects.filter(study=study).defer("heights").first()
    context = {
        "study": study,
        "room": "plan",
        "page": "map",
        "site": site,
        "stops": records.stops.measured_stops(stops, site),
        "terrain": terrain,
        "rigs": rigs,
        "rig": rig,
        "drawn": drawn,
        "busy": bool(drawn and drawn.state in (Design.WAITING, Design.RUNNING)),
        "stale": bool(drawn and drawn.revision < study.revision),
        "data": records.maps.map_data(study, site, stops, terrain, drawn),
    }
    return page_or_part(request, "plan/map.html", "plan/_map_state.html", context)


@require_POST
@login_required
def map_draw(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Queue the map of a rig."""
    study = get_object_or_404(Study.objects.editable_by(request.user), pk=study_id)
    rig = get_object_or_404(study.rigs.all(), pk=rig_id)
    try:
        services.maps.queue_map(study, rig)
    except ValidationError as wrong:
        messages.error(request, " ".join(wrong.messages))
    return go_to(request, f"{request.path.split('/map/')[0]}/map/?rig={rig.letter}")


@require_POST
@login_required
def stop_move(request: HttpRequest, study_id: int, stop_id: int) -> HttpResponse:
    """Move a stop to where it was dragged, and say how far that is."""
    stop = get_object_or_404(Stop.objects.editable_by(request.user), pk=stop_id, study_id=study_id)
    form = MoveForm(request.POST)
    if not form.is_valid():
        return JsonResponse({"problem": "That is no place on earth."}, status=422)
    try:
        moved = services.maps.move_stop(stop, **form.cleaned_data)
    except ValidationError as wrong:
        return JsonResponse({"problem": " ".join(wrong.messages)}, status=422)
    return JsonResponse({"distance_m": moved.distance_m})
