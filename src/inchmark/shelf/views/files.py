"""The shelf as a file: out, in, and the starter shelf; and the table of limits."""

import json

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_http_methods

from inchmark.formats.limits import limits
from inchmark.formats.shelf_file import shelf_schema, shelf_text
from inchmark.pages.keeping import done, kept
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.shelf import services
from inchmark.shelf.forms.files import ShelfFileForm
from inchmark.studies.access import study_for


@require_http_methods(["GET", "POST"])
@login_required
@at_most(20)
def files(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show what can go out and in, and take a shelf in."""
    study = study_for(request, study_id)
    starter = request.POST.get("way") == "starter"
    bound = request.method == "POST" and not starter
    form = ShelfFileForm(request.POST, request.FILES) if bound else ShelfFileForm()

    def take(data: bytes) -> None:
        added, known = services.shelf_files.take_in(study, data)
        there = f" There already, left as they are: {', '.join(known[:12])}." if known else ""
        messages.success(request, f"{added} parts, settings and units added.{there}")

    if starter:
        took = done(request, lambda: take(services.shelf_files.starter_shelf()))
    else:
        took = kept(form, lambda: take(form.cleaned_data["file"].read()))
    if took:
        return go_to(request, "shelf:parts", study.pk, "modules")
    context = {"study": study, "room": "shelf", "page": "files", "form": form}
    return render(request, "shelf/files.html", context, status=422 if form.errors else 200)


@require_GET
@login_required
def export(request: HttpRequest, study_id: int) -> HttpResponse:
    """Hand the parts of the shelf out as a file."""
    study = study_for(request, study_id)
    text = shelf_text(services.shelf_files.shelf_of(study))
    return _download(text, "shelf.json")


@require_GET
@login_required
def schema(request: HttpRequest, study_id: int) -> HttpResponse:
    """Hand out the JSON Schema of shelf files."""
    study_for(request, study_id)
    return _download(json.dumps(shelf_schema(), indent=1) + "\n", "shelf.schema.json")


def _download(text: str, name: str) -> HttpResponse:
    disposition = f'attachment; filename="{name}"'
    return HttpResponse(
        text,
        content_type="application/json; charset=utf-8",
        headers={"Content-Disposition": disposition},
    )


@require_GET
@login_required
def rules(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the table of limits."""
    study = study_for(request, study_id)
    context = {"study": study, "room": "shelf", "page": "rules", "limits": limits()}
    return render(request, "shelf/rules.html", context)
