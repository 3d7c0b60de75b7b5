"""The page that tells the HTTP API."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from inchmark.formats.openapi import operations


@require_GET
@login_required
def http_api(request: HttpRequest, schema: Callable[[], Mapping[str, Any]]) -> HttpResponse:
    """Show what programs can send, and what they are answered, by the schema of the API."""
    found = schema()
    context = {"operations": operations(found), "version": found["info"]["version"]}
    return render(request, "walk/http_api.html", context)
