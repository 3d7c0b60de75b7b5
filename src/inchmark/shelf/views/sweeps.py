"""Antenna sweeps and trim logs."""

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_POST

from inchmark.formats.errors import UnreadableFileError
from inchmark.pages.keeping import kept
from inchmark.pages.parts import go_to, let_go, streamed
from inchmark.pages.rig_signs import hue
from inchmark.people.services.rates import at_most
from inchmark.shelf import services
from inchmark.shelf.adapters.rigs import usual_band
from inchmark.shelf.drawings.sweeps import (
    Drawn,
    SweepChart,
    TrimPlot,
    TrimPoint,
    sweep_chart,
    trim_plots,
)
from inchmark.shelf.figures.sweeps import (
    StateSet,
    TrimLog,
    markers_of,
    state_sets,
    sweep_figures,
    trim_logs,
)
from inchmark.shelf.forms.sweeps import AnalyserForm, MarkersForm, SweepForm
from inchmark.shelf.models import Sweep
from inchmark.studies.access import study_for
from inchmark.studies.models import Study
from inchmark.studies.removing import removing


@require_GET
@login_required
def sweeps_page(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the sweeps with what each says, and the trim logs."""
    study = study_for(request, study_id)
    asked = request.GET.get("like", "")
    like = study.sweeps.filter(pk=asked).first() if asked.isdecimal() and len(asked) < 12 else None
    form = SweepForm(instance=services.sweeps.next_sweep(study, like), study=study)
    around = usual_band(study).around()
    analyser = AnalyserForm(initial={"start_hz": around.low_hz, "stop_hz": around.high_hz})
    return render(request, "shelf/sweeps.html", _sweeps_context(study, form, analyser))


def _sweeps_context(study: Study, form: SweepForm, analyser: AnalyserForm) -> dict[str, object]:
    found = list(study.sweeps.defer("data"))
    return {
        "study": study,
        "room": "shelf",
        "page": "sweeps",
        "sweeps": [(sweep, sweep_figures(sweep)) for sweep in found],
        "sets": [(one, _overlaid(one)) for one in state_sets(found)],
        "logs": [(log, _plots(log)) for log in trim_logs(found)],
        "form": form,
        "analyser": analyser,
    }


def _overlaid(one: StateSet) -> SweepChart:
    drawn = [
        Drawn(sweep.get_state_display(), hue(letter), sweep)
        for letter, sweep in zip("ABC", one.sweeps.values(), strict=False)
    ]
    last = drawn[-1].sweep
    band, key = (last.band_low_hz, last.band_high_hz), f"states-{last.pk}"
    return sweep_chart(drawn, band, [one.frequency_hz], key=key)


def _plots(log: TrimLog) -> tuple[TrimPlot, TrimPlot] | None:
    trials = [
        TrimPoint(value=sweep.value or 0.0, best_hz=one.best_hz, vswr_centre=one.vswr_centre)
        for sweep, one in log.rows
    ]
    return trim_plots(trials, log.centre_hz, log.advice.value if log.advice else None)


@require_POST
@login_required
@at_most(40)
def sweep_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keep a sweep, from a file or from an analyser."""
    study = study_for(request, study_id)
    form = SweepForm(request.POST, request.FILES, study=study)
    reads = request.POST.get("way") == "analyser"
    analyser = AnalyserForm(request.POST) if reads else AnalyserForm()
    asked_well = not reads or analyser.is_valid()
    said_at = None if reads else "file"
    if asked_well and kept(form, lambda: _keep(study, form, analyser), file=said_at):
        return go_to(request, form.instance)
    context = _sweeps_context(study, form, analyser)
    return render(request, "shelf/sweeps.html", context, status=422)


def _keep(study: Study, form: SweepForm, analyser: AnalyserForm) -> Sweep:
    if analyser.is_bound:
        let_go()  # an analyser may take its time
        return services.sweeps.read_from_analyser(study, form.instance, **analyser.cleaned_data)
    file = form.cleaned_data["file"]
    if file is None:
        raise UnreadableFileError("Choose a sweep file, or read from an analyser.")
    port = form.cleaned_data["port"]
    return services.sweeps.keep_sweep(
        study, form.instance, name=file.name, data=file.read(), port=port
    )


@require_GET
@login_required
def sweep_page(request: HttpRequest, study_id: int, sweep_id: int) -> HttpResponse:
    """Show one sweep: match against frequency with its band, and what it says."""
    sweep = get_object_or_404(Sweep.objects.visible_to(request.user), pk=sweep_id, study=study_id)
    form = MarkersForm(request.GET)
    typed = form.cleaned_data["at"] if form.is_valid() else []
    context = {
        "study": sweep.study,
        "room": "shelf",
        "page": "sweeps",
        "sweep": sweep,
        "figures": sweep_figures(sweep),
        "marker_form": form,
        "markers": markers_of(sweep, typed),
        "chart": sweep_chart(
            [Drawn("", "rig-a", sweep)], (sweep.band_low_hz, sweep.band_high_hz), typed
        ),
    }
    return render(request, "shelf/sweep.html", context)


@require_GET
@login_required
def sweep_file(request: HttpRequest, study_id: int, sweep_id: int) -> StreamingHttpResponse:
    """Hand the file back as it came."""
    sweep = get_object_or_404(Sweep.objects.visible_to(request.user), pk=sweep_id, study=study_id)
    return streamed(
        request,
        iter([bytes(sweep.data)]),
        content_type="application/octet-stream",
        filename=sweep.name,
    )


@require_POST
@login_required
def sweep_remove(request: HttpRequest, study_id: int, sweep_id: int) -> HttpResponse:
    """Take a sweep off the shelf."""
    sweep = get_object_or_404(Sweep.objects.editable_by(request.user), pk=sweep_id, study=study_id)
    removing(request, lambda: services.sweeps.remove_sweep(sweep))
    return go_to(request, "shelf:sweeps", study_id)
