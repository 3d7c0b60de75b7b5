"""A walk as it is walked: the page, the stream of what changes, and what is said on it."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator, Mapping
from time import monotonic
from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.handlers.asgi import ASGIRequest
from django.db.models import Q
from django.http import (
    HttpRequest,
    HttpResponse,
    HttpResponseBase,
    JsonResponse,
    StreamingHttpResponse,
)
from django.shortcuts import get_object_or_404, render
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from inchmark.people.services.rates import at_most
from inchmark.studies.access import reachable
from inchmark.studies.audit import leave_out, record
from inchmark.walk.drawings.strip import strip_of
from inchmark.walk.figures import thumb_context
from inchmark.walk.forms.marks import Here, Marks
from inchmark.walk.models import Mark, Walk
from inchmark.walk.services.ear import FullError, Parts, ear, named
from inchmark.walk.services.growing import GapError
from inchmark.walk.services.live_walk import LinkNow, LiveWalk
from inchmark.walk.services.marks import keep_marks
from inchmark.walk.services.outlook import looks, next_visit
from inchmark.walk.services.receive import RefusedError
from inchmark.walk.services.standing import standing_now
from inchmark.walk.services.stays import zone_of_walk
from inchmark.walk.views.live import refused, sent_of

POSTS_A_MINUTE = 240
LONGEST_S = 600.0  # of one stream
SHOWN_MARKS = 12
LEAST_CELLS = 40  # of a strip: a bar is a frame, however few have come
WHATS = {"desk": "at the desk", "phone": "by thumb"}


@require_GET
@login_required
def desk(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show the page of a walk that is being walked; what changes is sent to it."""
    walk = _walk(request, study_id, walk_id)
    context = thumb_context(walk) | {
        "room": "walk",
        "looks": looks(walk),
        "next": next_visit(walk, timezone.now()),
        "may_log": Walk.objects.loggable_by(request.user).filter(pk=walk.pk).exists(),
    }
    return render(request, "walk/desk.html", context)


@require_GET
@login_required
def events(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponseBase:
    """Send what changes on a walk, as it changes, to a page that stays open (server-sent events)."""
    walk = _walk(request, study_id, walk_id)
    if not isinstance(request, ASGIRequest):
        return HttpResponse(status=204)  # a server that holds a thread for each page has no streams
    what = WHATS.get(request.GET.get("by", ""), WHATS["desk"])
    stream = _stream(walk.pk, request.user.get_username(), what)
    answer = StreamingHttpResponse(stream, content_type="text/event-stream")
    answer["Cache-Control"] = "no-store"
    answer["X-Accel-Buffering"] = "no"  # a proxy is to pass each event on at once
    answer["Content-Encoding"] = "identity"  # each is small, and is not to wait for the next
    return answer


async def _stream(walk: int, who: str, what: str) -> AsyncIterator[bytes]:
    began = monotonic()
    try:
        async for parts in ear().watch(walk, _parts, who=who, what=what):
            if monotonic() - began > LONGEST_S:
                return  # the page asks anew, and so whether it still may
            if parts is None:
                yield b": still here\n\n"
            for name, html in (parts or {}).items():
                yield f"event: part\ndata: {json.dumps({'name': name, 'html': html})}\n\n".encode()
    except FullError:
        yield b"event: full\ndata: {}\n\n"


def _parts(live: LiveWalk, told: list[Mapping[str, Any]]) -> Parts:
    """Return the parts of the page that what was told changes."""
    kinds = {one["kind"] for one in told}
    begun = bool(kinds & {"begin", "join"})
    changed = live.follow(told)
    of_walk = {"walk": live.walk, "study": live.walk.study}
    parts: Parts = {}
    if begun or changed is None:
        parts["links"] = render_to_string(
            "walk/_live_links.html",
            {"rows": _rows(live, None), "quiet": live.quiet()} | of_walk,
        )
    else:
        for row in _rows(live, changed):
            parts[f"link-{row['link'].key}"] = render_to_string("walk/_live_link.html", row)
    if begun or changed is None or "lines" in kinds:
        context = {"sources": live.by_source(), "live": live} | of_walk
        parts["sources"] = render_to_string("walk/_live_sources.html", context)
    if begun or "place" in kinds:
        parts |= _place_parts(live.walk)
    if begun or "mark" in kinds:
        parts["marks"] = _marks_html(live.walk)
    if begun or "reading" in kinds:
        walk = Walk.objects.select_related("study").get(pk=live.pk)
        parts["guidance"] = render_to_string("walk/_live_guidance.html", {"study": walk.study})
    people: list[tuple[str, str]] = next(
        (one["people"] for one in told if one["kind"] == "present"), []
    )
    if begun or "presence" in kinds:
        parts["people"] = ", ".join(named(people))
    return parts


def _rows(live: LiveWalk, only: set[Any] | None) -> list[dict[str, Any]]:
    return [_row(link) for link in live.links(only)]


def _row(link: LinkNow) -> dict[str, Any]:
    return {
        "link": link,
        "visit": link.visit,
        "strip": strip_of(link.visit.summary.strip, least=LEAST_CELLS),
    }


def _place_parts(walk: Walk) -> Parts:
    stay = standing_now(walk, timezone.now())
    now = {
        "stop": stay.stop.label if stay else "",
        "rig": stay.rig.letter if stay and stay.rig else "",
        "condition": stay.condition if stay else "",
    }
    context: dict[str, Any] = {
        "stay": stay,
        "next": next_visit(walk, timezone.now()),
        "study": walk.study,
    }
    if stay is not None:
        context["since"] = f"{stay.from_time.astimezone(zone_of_walk(walk)):%H:%M:%S}"
    return {
        "place": render_to_string("walk/_live_place.html", context),
        "next": render_to_string("walk/_live_next.html", context),
        "now": json.dumps(now),
    }


def _marks_html(walk: Walk) -> str:
    marks = walk.marks.exclude(kind=Mark.PLACE).select_related("by", "stop").order_by("-at")
    context = {
        "marks": marks[:SHOWN_MARKS],
        "photos": walk.photos.defer("data"),
        "study": walk.study,
    }
    return render_to_string("walk/_live_marks.html", context)


@require_GET
@login_required
def next_place(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show the next visit with the way to it from where the phone says it is."""
    walk, here = _walk(request, study_id, walk_id), Here.of(request.GET)
    context = {"next": next_visit(walk, timezone.now(), here), "study": walk.study}
    return render(request, "walk/_live_next.html", context)


@require_POST
@login_required
@at_most(POSTS_A_MINUTE)
def marks(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Keep what a page says during a walk; the same again adds nothing."""
    leave_out(request)
    walks = Walk.objects.loggable_by(request.user).select_related("study")
    walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    sent = sent_of(request, Marks, "marks")
    if isinstance(sent, JsonResponse):
        return sent
    try:
        through = keep_marks(walk, by=request.user, **sent.model_dump())
    except GapError as gap:
        return JsonResponse({"detail": str(gap), "wanted": gap.wanted}, status=409)
    except RefusedError as wrong:
        return refused(str(wrong))
    if sent.first == 1:
        record(study_id, request.user.get_username(), "walk:marks", str(walk))
    return JsonResponse({"through": through})


def _walk(request: HttpRequest, study_id: int, walk_id: int) -> Walk:
    """Return the walk for members and for those who may log into it."""
    member = Q(pk__in=reachable(request, Walk.objects).values("pk"))
    logger = Q(pk__in=Walk.objects.loggable_by(request.user).values("pk"))
    walks = Walk.objects.filter(member | logger).select_related("study")
    found: Walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    return found
