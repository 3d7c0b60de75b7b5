"""Passes for those who only log: made and ended by editors, used by whoever holds the link."""

from __future__ import annotations

from django.contrib.auth import login
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.pages.parts import go_to
from inchmark.pages.qr import qr_picture
from inchmark.people.services.rates import at_most
from inchmark.walk.forms.walks import PassForm
from inchmark.walk.models import FieldPass, Walk
from inchmark.walk.services import field


@require_POST
@login_required
@at_most(20)
def pass_add(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Make a pass and show its link once."""
    walk = get_object_or_404(Walk.objects.editable_by(request.user), pk=walk_id, study=study_id)
    form = PassForm(request.POST)
    link = ""
    if form.is_valid():
        secret = field.make_pass(walk, form.cleaned_data["name"])
        link = request.build_absolute_uri(reverse("field-enter", args=[secret]))
    context = {
        "study": walk.study,
        "room": "walk",
        "walk": walk,
        "form": form,
        "link": link,
        "picture": qr_picture(link) if link else "",
    }
    return render(request, "walk/field_pass.html", context, status=200 if link else 422)


@require_POST
@login_required
def pass_end(request: HttpRequest, study_id: int, pass_id: int) -> HttpResponse:
    """End a pass."""
    passes = FieldPass.objects.editable_by(request.user)
    found = get_object_or_404(passes, pk=pass_id, walk__study=study_id)
    field.end_pass(found)
    return go_to(request, found.walk)


@require_http_methods(["GET", "POST"])
def enter(request: HttpRequest, secret: str) -> HttpResponse:
    """Ask before a pass is used, so that a link preview does not; then go to the counts."""
    found = field.pass_of(secret)
    if found is None:
        return render(request, "walk/field_enter.html", {"pass": None}, status=410)
    if request.method == "GET":
        return render(request, "walk/field_enter.html", {"pass": found})
    account = field.account_of(found)
    login(request, account, backend="django.contrib.auth.backends.ModelBackend")
    return go_to(request, "walk:counts", found.walk.study_id, found.walk_id)
