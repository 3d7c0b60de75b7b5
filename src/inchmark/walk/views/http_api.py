"""The page that tells the HTTP API."""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from inchmark.formats.openapi import operations
from inchmark.walk.api import api


@require_GET
@login_required
def http_api(request: HttpRequest) -> HttpResponse:
    """Show what programs can send, and what they are answered."""
    context = {"operations": operations(api.get_openapi_schema()), "version": api.version}
    return render(request, "walk/http_api.html", context)
