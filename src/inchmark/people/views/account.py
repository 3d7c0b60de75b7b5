"""One's own account: password, second factor, sessions, tokens, and its end."""

from __future__ import annotations

from base64 import b32encode
from typing import Any
from zoneinfo import available_timezones

from django.contrib import messages
from django.contrib.auth import logout, update_session_auth_hash
from django.contrib.auth.decorators import login_required
from django.contrib.auth.forms import PasswordChangeForm, SetPasswordForm
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.pages.keeping import done, kept
from inchmark.pages.parts import go_to
from inchmark.pages.qr import qr_picture
from inchmark.people import services
from inchmark.people.forms import CodeForm, FiguresForm, TokenForm
from inchmark.people.models import User
from inchmark.people.services import ending, second_factor, sessions


def _me(request: HttpRequest) -> User:
    user = request.user
    assert isinstance(user, User)
    return user


def _password_form(user: User, data: Any = None) -> SetPasswordForm[User]:
    """Return the form that asks for the old password where there is one."""
    return (PasswordChangeForm if user.has_usable_password() else SetPasswordForm)(user, data)


def _account(request: HttpRequest, status: int = 200, **shown: Any) -> HttpResponse:
    user = _me(request)
    context = {
        "sessions": sessions.sessions_of(user),
        "session_key": request.session.session_key,
        "tokens": user.access_tokens.all(),
        "password_form": _password_form(user),
        "figures_form": FiguresForm(instance=user),
        "zones": sorted(available_timezones()),
        "token_form": TokenForm(user),
        "second_factor": second_factor.is_on(user),
        "recovery_left": second_factor.recovery_left(user),
        "alone_in": ending.owned_alone(user),
    } | shown
    return render(request, "people/account.html", context, status=status)


@require_GET
@login_required
def account(request: HttpRequest) -> HttpResponse:
    """Show the account."""
    return _account(request)


@require_POST
@login_required
def figures(request: HttpRequest) -> HttpResponse:
    """Keep how figures are shown to oneself."""
    user = User.objects.get(pk=_me(request).pk)
    form = FiguresForm(request.POST, instance=user)
    if kept(form, form.save):
        messages.success(request, "Figures are shown so from now on.")
        return go_to(request, "people:account")
    return _account(request, 422, figures_form=form)


@require_POST
@login_required
def password(request: HttpRequest) -> HttpResponse:
    """Set a password, and sign every other session out."""
    user = _me(request)
    form = _password_form(user, request.POST)
    if not kept(form, lambda: form.save()):
        return _account(request, 422, password_form=form)
    update_session_auth_hash(request, user)
    sessions.keep_on(request)
    ended = sessions.end_others(user, request.session.session_key)
    messages.success(request, f"The password is set; {ended} other sessions were signed out.")
    return go_to(request, "people:account")


@require_POST
@login_required
def token_add(request: HttpRequest) -> HttpResponse:
    """Make a token and show it once."""
    form = TokenForm(_me(request), request.POST)
    if not form.is_valid():
        return _account(request, 422, token_form=form)
    return _account(request, secret=services.make_access_token(_me(request), **form.cleaned_data))


@require_POST
@login_required
def token_revoke(request: HttpRequest, token_id: int) -> HttpResponse:
    """End a token."""
    get_object_or_404(_me(request).access_tokens, pk=token_id).delete()
    return go_to(request, "people:account")


@require_POST
@login_required
def session_end(request: HttpRequest, session_id: int) -> HttpResponse:
    """Sign a session out."""
    sessions.end_session(get_object_or_404(_me(request).signed_in, pk=session_id))
    return go_to(request, "people:account")


@require_http_methods(["GET", "POST"])
@login_required
def second_factor_on(request: HttpRequest) -> HttpResponse:
    """Set the second factor up: a code to photograph, a code to type, recovery codes once."""
    user = _me(request)
    form = CodeForm(request.POST if request.method == "POST" else None)
    if form.is_valid():
        codes = second_factor.turn_on(user, form.cleaned_data["code"])
        if codes is not None:
            return render(request, "people/recovery_codes.html", {"codes": codes})
        form.add_error(
            "code", "That is not the code the app shows now. Is the phone's clock right?"
        )
    device = second_factor.begin(user)
    context = {
        "form": form,
        "picture": qr_picture(device.config_url),
        "key": b32encode(device.bin_key).decode(),
    }
    return render(
        request, "people/second_factor.html", context, status=422 if form.is_bound else 200
    )


@require_POST
@login_required
def second_factor_off(request: HttpRequest) -> HttpResponse:
    """Turn it off with a code, so that an open browser alone cannot."""
    user = _me(request)
    problem = second_factor.problem_with(user, request.POST.get("code", ""))
    if problem:
        messages.error(request, problem)
    else:
        second_factor.turn_off(user)
        messages.success(request, "The second factor is off.")
    return go_to(request, "people:account")


@require_POST
@login_required
def account_end(request: HttpRequest) -> HttpResponse:
    """End the account; what was logged stays with its studies."""
    user, typed = _me(request), request.POST.get("typed", "")
    if not done(request, lambda: ending.end_account(user, typed=typed)):
        return go_to(request, "people:account")
    logout(request)
    return go_to(request, "people:sign-in")
