"""The guided reading: begun, stepped through, left and taken up again."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_GET, require_POST

from inchmark.learn.context import KEY
from inchmark.learn.figures.guide import STEPS, page_of
from inchmark.pages.parts import go_to
from inchmark.studies.models import Study


@require_GET
@login_required
def guide(request: HttpRequest) -> HttpResponse:
    """Go on where the reading was left, or begin it."""
    demo = Study.objects.visible_to(request.user).filter(kind=Study.DEMO).first()
    if demo is None:
        messages.error(
            request, "The demo study is not here, so there is nothing to read with a guide."
        )
        return go_to(request, "studies:list")
    known = request.session.get(KEY)
    number = known["step"] if known and known["study"] == demo.pk else 1
    request.session[KEY] = {"step": number, "study": demo.pk}
    return go_to(request, page_of(number, demo.pk))


@require_POST
@login_required
def guide_step(request: HttpRequest, number: int) -> HttpResponse:
    """Go to a step."""
    known = request.session.get(KEY)
    if known is None:
        return go_to(request, "guide")
    number = min(max(number, 1), len(STEPS))
    request.session[KEY] = known | {"step": number}
    return go_to(request, page_of(number, known["study"]))


@require_POST
@login_required
def guide_end(request: HttpRequest) -> HttpResponse:
    """Leave the reading; it begins anew next time."""
    request.session.pop(KEY, None)
    return go_to(request, "studies:list")
