"""A token that lets a bridge or a program send into one walk."""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_http_methods

from inchmark.pages.keeping import posted
from inchmark.people.services import make_access_token
from inchmark.studies.access import reachable
from inchmark.walk.forms.walks import WalkTokenForm
from inchmark.walk.models import Walk


@require_http_methods(["GET", "POST"])
@login_required
def token(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Make a token for one walk and show it once."""
    walks = reachable(request, Walk.objects).select_related("study")
    walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    form, secret = WalkTokenForm(posted(request)), ""
    if form.is_valid():
        secret = make_access_token(
            request.user,  # type: ignore[arg-type]  # signed in
            **form.cleaned_data,
            only_study=walk.study_id,
            only_walk=walk.pk,
        )
    context = {"study": walk.study, "room": "walk", "walk": walk, "form": form, "secret": secret}
    wrong = form.is_bound and not secret
    return render(request, "walk/token.html", context, status=422 if wrong else 200)
