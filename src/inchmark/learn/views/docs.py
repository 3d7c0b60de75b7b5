"""The docs, offline, with a search."""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from inchmark.learn.figures.docs import DOCS, doc_of, passages

LONGEST = 100


@require_GET
@login_required
def docs(request: HttpRequest) -> HttpResponse:
    """Show what there is to read, or where some words stand."""
    asked = request.GET.get("q", "").strip()[:LONGEST]
    context = {
        "asked": asked,
        "found": passages(asked),
        "docs": [(doc_of(name), about) for name, about in DOCS.items()],
    }
    return render(request, "learn/docs.html", context)


@require_GET
@login_required
def doc(request: HttpRequest, name: str) -> HttpResponse:
    """Show one page of the docs."""
    try:
        found = doc_of(name)
    except KeyError:
        raise Http404(name) from None
    return render(request, "learn/doc.html", {"doc": found, "others": list(DOCS)})
