"""The timeline of a walk: who stood where, when."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_http_methods

from inchmark.pages.keeping import kept, posted
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.studies.access import reachable
from inchmark.walk.drawings import strip_of
from inchmark.walk.forms.recipes import TimelineForm
from inchmark.walk.models import Walk
from inchmark.walk.services import stays as services


@require_http_methods(["GET", "POST"])
@login_required
@at_most(20)
def stays(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show a walk as a strip of time, and keep who stood where when."""
    walks = reachable(request, Walk.objects).select_related("study")
    walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    form = TimelineForm(posted(request), initial={"text": services.timeline_text(walk)})

    def keep() -> None:
        services.keep_timeline(walk, form.cleaned_data["text"], request.user)

    if kept(form, keep, file="text"):
        again = services.read_by_timeline(walk)
        messages.success(
            request,
            f"The timeline is kept; {again} log{'s were' if again != 1 else ' was'} read anew by it.",
        )
        return go_to(request, "walk:stays", study_id, walk_id)
    context = {
        "study": walk.study,
        "room": "walk",
        "walk": walk,
        "form": form,
        "strip": strip_of(walk),
    }
    return render(request, "walk/stays.html", context, status=422 if form.is_bound else 200)
