"""Settings of a module, typed or read from its console's string."""

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.pages.keeping import kept, posted
from inchmark.pages.parts import go_to
from inchmark.shelf import services
from inchmark.shelf.adapters.console import columns_of
from inchmark.shelf.adapters.rigs import start_frequency_hz
from inchmark.shelf.figures.console import decode, suggested_name
from inchmark.shelf.figures.settings import setting_figures, unusual_in
from inchmark.shelf.forms.settings import ConsoleForm, SettingForm
from inchmark.shelf.models import Module, Setting
from inchmark.studies.access import reachable
from inchmark.studies.removing import removing

# what a string does not tell is left empty, for somebody to say
UNKNOWN: dict[str, object] = dict.fromkeys(
    ("frequency_hz", "power_dbm", "payload_bytes", "spreading_factor", "duty_cycle_percent")
)


@require_http_methods(["GET", "POST"])
@login_required
def setting_add(request: HttpRequest, study_id: int, module_id: int) -> HttpResponse:
    """Add a setting; with a settings string in the address its fields are filled in."""
    found = Module.objects.editable_by(request.user).select_related("study")
    module = get_object_or_404(found, pk=module_id, study_id=study_id)
    console = ConsoleForm(request.GET if request.GET.get("text") else None)
    decoded, start = None, {}
    if console.is_valid():
        decoded = decode(module, **console.cleaned_data)
        if decoded.reading:
            start = UNKNOWN | columns_of(decoded.reading)
            start["name"] = suggested_name(start)
            start["console"] = console.cleaned_data["text"]
    blank = Setting(module=module, study=module.study, spreading_factor=7)
    blank.frequency_hz = start_frequency_hz(module.study, module) or blank.frequency_hz
    if request.method == "POST":
        form = SettingForm(request.POST, instance=blank)
    else:
        form = SettingForm(instance=blank, initial=start)
    return _save(request, module, form, {"console": console, "decoded": decoded})


@require_http_methods(["GET", "POST"])
@login_required
def setting_edit(request: HttpRequest, study_id: int, setting_id: int) -> HttpResponse:
    """Show a setting with what it costs, and change it."""
    found = reachable(request, Setting.objects).select_related("module", "study")
    one = get_object_or_404(found, pk=setting_id, study_id=study_id)
    form = SettingForm(posted(request), instance=one)
    extra = {
        "figures": setting_figures(one, one.module),
        "unusual": unusual_in(one, one.module),
        "rigs": services.parts.rigs_with(one),
    }
    return _save(request, one.module, form, extra)


def _save(
    request: HttpRequest, module: Module, form: SettingForm, extra: dict[str, object]
) -> HttpResponse:
    if kept(form, lambda: services.parts.save_part(module.study, form.instance)):
        for words in unusual_in(form.instance, module):
            messages.warning(request, words)
        return go_to(request, module)
    context = {
        "study": module.study,
        "room": "shelf",
        "page": "modules",
        "module": module,
        "form": form,
        "setting": form.instance,
        **extra,
    }
    return render(request, "shelf/setting.html", context, status=422 if form.is_bound else 200)


@require_POST
@login_required
def setting_remove(request: HttpRequest, study_id: int, setting_id: int) -> HttpResponse:
    """Take a setting off its module, or out of the lists if a rig uses it."""
    found = Setting.objects.editable_by(request.user).select_related("module", "study")
    one = get_object_or_404(found, pk=setting_id, study_id=study_id)
    if "archived" in request.POST:
        services.parts.archive_part(one, archived=request.POST["archived"] == "1")
        return go_to(request, one.module)
    if not removing(request, lambda: services.parts.remove_part(one)):
        return go_to(request, one)
    return go_to(request, one.module)
