"""What is shown when an address leads nowhere, or when we failed."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Return the 404 page; it says the same for what is missing and what belongs to others."""
    return render(request, "pages/not_found.html", status=404)


def failed(request: HttpRequest) -> HttpResponse:
    """Return the 500 page."""
    return render(request, "pages/failed.html", status=500)
