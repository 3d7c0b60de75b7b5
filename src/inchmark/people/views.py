"""Signing in and out."""

from django.contrib.auth import login, logout
from django.contrib.auth.views import LoginView
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.people import services

sign_in = LoginView.as_view(template_name="people/sign_in.html", redirect_authenticated_user=True)


@require_http_methods(["GET", "POST"])
def sign_in_link(request: HttpRequest, secret: str) -> HttpResponse:
    """Ask before using the link up, so that a link preview does not."""
    if request.method == "GET":
        live = services.link_is_live(secret)
        return render(
            request, "people/sign_in_link.html", {"live": live}, status=200 if live else 410
        )
    user = services.use_sign_in_link(secret)
    if user is None:
        return render(request, "people/sign_in_link.html", {"live": False}, status=410)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("studies:list")


@require_POST
def sign_out(request: HttpRequest) -> HttpResponse:
    """End the session."""
    logout(request)
    return redirect("people:sign-in")
