"""Conducted ladders."""

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.pages.keeping import done, kept, posted, posted_files
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.shelf import services
from inchmark.shelf.drawings.conducted import LossCurveDrawing, loss_curve_drawing
from inchmark.shelf.figures.conducted import LadderResult, result_of
from inchmark.shelf.forms.bench import LadderForm
from inchmark.shelf.models import ConductedCheck
from inchmark.studies.access import study_for
from inchmark.studies.models import Study


@require_http_methods(["GET", "POST"])
@login_required
@at_most(30)
def ladders(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the conducted ladders, and keep a new one."""
    study = study_for(request, study_id)
    form = LadderForm(
        posted(request),
        posted_files(request),
        study=study,
        initial={"checked_on": timezone.localdate(), "source_dbm": 0.0},
    )
    if kept(form, lambda: _keep(study, form)):
        return go_to(request, "shelf:ladders", study.pk)
    checks = study.conducted_checks.select_related("rig").prefetch_related("rigs_in_use")
    checks = checks.order_by("-checked_on", "-pk")
    results = [(check, result_of(check)) for check in checks]
    context = {
        "study": study,
        "room": "shelf",
        "page": "ladders",
        "form": form,
        "serials": study.units.filter(module__isnull=False),
        "ladders": [(check, found, _drawing(found)) for check, found in results],
    }
    return render(request, "shelf/ladders.html", context, status=422 if form.is_bound else 200)


def _drawing(found: LadderResult) -> LossCurveDrawing:
    return loss_curve_drawing(found.curve, [(step.level_dbm, step.loss) for step in found.steps])


def _keep(study: Study, form: LadderForm) -> None:
    file = form.cleaned_data["file"]
    services.conducted.keep_ladder(
        study,
        form.instance,
        name=file.name if file else "",
        log=file.read() if file else None,
        frames_per_step=form.cleaned_data["frames_per_step"],
    )


@require_POST
@login_required
def ladder_use(request: HttpRequest, study_id: int, check_id: int) -> HttpResponse:
    """Let a ladder's level stand in for the datasheet, or go back to it."""
    checks = ConductedCheck.objects.editable_by(request.user).select_related("rig", "study")
    check = get_object_or_404(checks, pk=check_id, study=study_id)
    leave = request.POST.get("use") == "datasheet"
    turn = services.conducted.leave_ladder if leave else services.conducted.use_ladder
    done(request, lambda: turn(check))
    return go_to(request, "shelf:ladders", study_id)
