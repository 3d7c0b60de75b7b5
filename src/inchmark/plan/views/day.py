"""The field day: design and power, timetable, cautions, run sheet."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.pages.keeping import done, kept
from inchmark.pages.parts import go_to, page_or_part
from inchmark.pages.qr import qr_picture
from inchmark.people.services.rates import at_most
from inchmark.plan import services
from inchmark.plan.adapters.stops import stops_of
from inchmark.plan.figures.clock import day_of, order_lines, too_many, visits_of
from inchmark.plan.figures.day import cautions_of, design_view, kit_of, legal_of, settles, thumb_of
from inchmark.plan.forms import DesignForm
from inchmark.plan.models import Design
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.access import study_for
from inchmark.studies.models import Study


@require_http_methods(["GET", "POST"])
@login_required
def design(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show and keep the design: question, order, pace; its power is worked out in the background."""
    study = study_for(request, study_id)
    one = services.design.design_of(study)
    form = DesignForm(request.POST or None, instance=one, study=study)
    if kept(form, lambda: services.design.save_design(study, form.instance)):
        return go_to(request, "plan:design", study.pk)
    one = services.design.design_of(
        study
    )  # as it is kept: a form leaves its mark on what it refuses
    rigs, stops = rigs_of(study), stops_of(study)
    visits = visits_of(one, rigs, stops)
    needed = f"{study.needed_m:g} m" if study.needed_m else "the needed distance"
    context = {
        "study": study,
        "room": "plan",
        "page": "design",
        "form": form,
        "design": one,
        "stops": stops,
        "visits": visits,
        "order": order_lines(one, visits),
        "too_many": too_many(one, rigs, stops),
        "comparisons": design_view(one, rigs, visits),
        "settles": settles(one, needed=needed, loss=study.loss_share),
        "thumb": thumb_of(one),
        "stale": bool(one.power) and one.power["revision"] < study.revision,
        "busy": one.power_state in (Design.WAITING, Design.RUNNING),
    }
    status = 422 if form.errors else 200
    return page_or_part(request, "plan/design.html", "plan/_power.html", context, status=status)


@require_POST
@login_required
@at_most(12)
def power(request: HttpRequest, study_id: int) -> HttpResponse:
    """Queue the working out of the plan's power."""
    study = study_for(request, study_id)
    one = services.design.design_of(study)
    done(request, lambda: services.design.queue_power(one))
    return go_to(request, "plan:design", study.pk)


@require_POST
@login_required
def frames_take(request: HttpRequest, study_id: int) -> HttpResponse:
    """Take over as many frames a visit as a wish asks for."""
    study = study_for(request, study_id)
    one = services.design.design_of(study)
    thumb = thumb_of(one)
    wishes = {"loss": thumb.for_loss, "level": thumb.for_level}
    one.frames = wishes.get(request.POST.get("wish", ""), one.frames)
    services.design.save_design(study, one)
    return go_to(request, "plan:design", study.pk)


@require_POST
@login_required
def shuffle(request: HttpRequest, study_id: int) -> HttpResponse:
    """Draw the order anew."""
    study = study_for(request, study_id)
    services.design.shuffle(services.design.design_of(study))
    return go_to(request, "plan:design", study.pk)


def _day_context(study: Study) -> dict[str, Any]:
    one = services.design.design_of(study)
    rigs, stops = rigs_of(study), stops_of(study)
    day = day_of(one, rigs, stops, services.site_of(study))
    read = {row.key: row for row in one.acknowledgements.all()} if one.pk else {}
    cautions = cautions_of(one, rigs)
    return {
        "study": study,
        "room": "plan",
        "design": one,
        "rigs": rigs,
        "stops": {stop.label: stop for stop in stops},
        "day": day,
        "cautions": [(caution, read.get(caution.key)) for caution in cautions],
        "kit": kit_of(study, rigs, day),
        # last: it puts the plan's pace on the rigs in memory
        "legal": legal_of(day, study.region),
    }


@require_GET
@login_required
def day(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show timetable, limits, cautions and kit."""
    study = study_for(request, study_id)
    context = _day_context(study)
    problems = services.design.problems_of(
        study, context["design"], context["rigs"], context["day"]
    )
    if words := too_many(context["design"], context["rigs"], list(context["stops"].values())):
        problems.append(words)
    context |= {"page": "day", "problems": problems}
    return render(request, "plan/day.html", context)


@require_POST
@login_required
def cautions_read(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keep that the cautions were read, by whom and when."""
    study = study_for(request, study_id)
    one = services.design.design_of(study)
    keys, name = request.POST.getlist("key"), request.POST.get("name", "")
    done(request, lambda: services.design.acknowledge(one, keys, by=request.user, name=name))
    return go_to(request, "plan:day", study.pk)


@require_GET
@login_required
def run_sheet(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the run sheet, made for A4."""
    study = study_for(request, study_id)
    context = _day_context(study) | {"page": "run-sheet"}
    page = request.build_absolute_uri(reverse("walk:counts-latest", args=[study.pk]))
    codes = {
        label: qr_picture(f"{page}?{urlencode({'stop': label})}") for label in context["stops"]
    }
    return render(request, "plan/run_sheet.html", context | {"codes": codes})
