"""Signing in and out."""

from django.contrib.auth import login, logout
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.views import LoginView
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.people import services
from inchmark.people.forms import SignInForm
from inchmark.people.models import User
from inchmark.people.services import second_factor


class _SignIn(LoginView):
    template_name = "people/sign_in.html"
    redirect_authenticated_user = True
    authentication_form = SignInForm

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        """Sign in, if the code of the second factor is right where there is one."""
        user, code = form.get_user(), form.cleaned_data["code"]
        problem = second_factor.problem_with(user, code) if isinstance(user, User) else ""
        if problem:
            form.add_error("code", problem)
            return self.form_invalid(form)
        return super().form_valid(form)


sign_in = _SignIn.as_view()


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
