"""The people of a study: who is in it as what, links for more, and its end."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.pages.keeping import done, kept, posted
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.studies.access import owned_study_for, study_for
from inchmark.studies.audit import WORDS
from inchmark.studies.forms import InviteForm, JoinForm, KeepingForm
from inchmark.studies.models import Membership, Study
from inchmark.studies.services import people as services

CHANGES_A_PAGE = 50


@require_http_methods(["GET", "POST"])
@login_required
@at_most(20)
def people(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show who is in the study; an owner makes a link for someone more."""
    posts = request.method == "POST"
    study = owned_study_for(request, study_id) if posts else study_for(request, study_id)
    form, secrets = InviteForm(posted(request)), list[str]()

    def keep() -> None:
        secrets.append(services.invite(study, **form.cleaned_data, by=request.user))

    if not kept(form, keep) and posts:
        return _people(request, study, form, status=422)
    return _people(request, study, secret=secrets[0] if secrets else "")


@require_POST
@login_required
def keeping(request: HttpRequest, study_id: int) -> HttpResponse:
    """Say how long the lines of logs are kept."""
    study = owned_study_for(request, study_id)
    form = KeepingForm(request.POST, instance=study)
    if not form.is_valid():
        return _people(request, owned_study_for(request, study_id), keeping=form, status=422)
    services.keep_logs(study, form.cleaned_data["keep_logs_days"])
    messages.success(request, services.keeping_words(study))
    return go_to(request, "studies:people", study_id)


def _people(
    request: HttpRequest,
    study: Study,
    form: InviteForm | None = None,
    *,
    keeping: KeepingForm | None = None,
    secret: str = "",
    status: int = 200,
) -> HttpResponse:
    members = list(study.memberships.select_related("user").order_by("user__username"))
    mine = next((one.role for one in members if one.user_id == request.user.pk), "")
    link = request.build_absolute_uri(reverse("studies:join", args=[secret])) if secret else ""
    context = {
        "study": study,
        "members": members,
        "owner": mine == Membership.OWNER,
        "roles": Membership.ROLES,
        "form": form or InviteForm(),
        "keeping": keeping or KeepingForm(instance=study),
        "link": link,
        "invitations": services.open_invitations(study).select_related("by"),
        "holds": services.what_it_holds(study),
    }
    return render(request, "studies/people.html", context, status=status)


@require_http_methods(["GET", "POST"])
def join(request: HttpRequest, secret: str) -> HttpResponse:
    """Let the holder of a link in: as who is signed in, or with a new account."""
    invitation = services.invitation_of(secret)
    if invitation is None:
        return render(request, "studies/join.html", {"invitation": None}, status=410)
    known = request.user.is_authenticated
    form = None if known else JoinForm(posted(request))
    if request.method == "POST" and (form is None or form.is_valid()):
        if form is not None:
            form.sign_up(request)
        member = services.join(secret, request.user)
        if member is not None:
            return go_to(request, member.study)
    context = {"invitation": invitation, "form": form, "secret": secret}
    status = 422 if form is not None and form.is_bound else 200
    return render(request, "studies/join.html", context, status=status)


@require_POST
@login_required
def invitation_take_back(request: HttpRequest, study_id: int, invitation_id: int) -> HttpResponse:
    """End a link nobody has used."""
    study = owned_study_for(request, study_id)
    services.take_back(get_object_or_404(study.invitations, pk=invitation_id))
    return go_to(request, "studies:people", study_id)


def _member(study: Study, user_id: int) -> Membership:
    member: Membership = get_object_or_404(study.memberships, user_id=user_id)
    return member


@require_POST
@login_required
def member_change(request: HttpRequest, study_id: int, user_id: int) -> HttpResponse:
    """Give a member another role."""
    study = owned_study_for(request, study_id)
    member, role = _member(study, user_id), request.POST.get("role", "")
    done(request, lambda: services.change_role(member, role))
    return go_to(request, "studies:people", study_id)


@require_POST
@login_required
def member_remove(request: HttpRequest, study_id: int, user_id: int) -> HttpResponse:
    """Take a member out."""
    member = _member(owned_study_for(request, study_id), user_id)
    done(request, lambda: services.remove(member))
    return go_to(request, "studies:people", study_id)


@require_POST
@login_required
def hand_over(request: HttpRequest, study_id: int, user_id: int) -> HttpResponse:
    """Make a member the owner in one's own place."""
    member = _member(owned_study_for(request, study_id), user_id)
    done(request, lambda: services.hand_over(member, by=request.user))
    return go_to(request, "studies:people", study_id)


@require_POST
@login_required
def leave(request: HttpRequest, study_id: int) -> HttpResponse:
    """Leave a study; a viewer may, too."""
    study = study_for(request, study_id, seeing=True)
    member = _member(study, request.user.pk or 0)
    return _gone(request, study, lambda: services.remove(member), "You have left “{}”.")


@require_POST
@login_required
def end(request: HttpRequest, study_id: int) -> HttpResponse:
    """Delete a study with all that belongs to it."""
    study = owned_study_for(request, study_id)
    typed = request.POST.get("typed", "")
    words = "“{}” and all that belonged to it are deleted."
    return _gone(request, study, lambda: services.end_study(study, typed=typed), words)


def _gone(
    request: HttpRequest, study: Study, what: Callable[[], object], words: str
) -> HttpResponse:
    """Do what leaves one without the study: to the list of studies, or back with why not."""
    number, title = study.pk, study.title
    if not done(request, what):
        return go_to(request, "studies:people", number)
    messages.success(request, words.format(title))
    return go_to(request, "studies:list")


@require_GET
@login_required
def changes(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show who changed what, the latest first."""
    study = study_for(request, study_id)
    page = Paginator(study.changes.all(), CHANGES_A_PAGE).get_page(request.GET.get("page"))
    rows = [(one, WORDS.get(one.what, one.what)) for one in page.object_list]
    context = {"study": study, "page": page, "rows": rows}
    return render(request, "studies/changes.html", context)
