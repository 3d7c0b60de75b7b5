"""A study as one file: handed out, and taken in again here or elsewhere."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods

from inchmark.decide.forms import BundleForm
from inchmark.decide.services.bundles.into import take_bundle
from inchmark.decide.services.bundles.out import write_bundle
from inchmark.formats.errors import UnreadableFileError
from inchmark.pages.keeping import posted, posted_files
from inchmark.pages.parts import go_to, streamed
from inchmark.people.services.rates import at_most
from inchmark.studies.access import study_for
from inchmark.studies.models import Study

IN_MEMORY, PIECE = 8 * 1024**2, 256 * 1024


@require_GET
@login_required
@at_most(12)
def bundle(request: HttpRequest, study_id: int) -> StreamingHttpResponse:
    """Hand out a study as one zip."""
    study = study_for(request, study_id)
    name = slugify(study.title) or "study"
    return streamed(
        request, _pieces(study), content_type="application/zip", filename=f"{name}.inchmark.zip"
    )


def _pieces(study: Study) -> Iterator[bytes]:
    """Yield a bundle, written whole before its first byte goes out."""
    with tempfile.SpooledTemporaryFile(max_size=IN_MEMORY) as file:
        write_bundle(study, file)
        file.seek(0)
        while piece := file.read(PIECE):
            yield piece


@require_http_methods(["GET", "HEAD", "POST"])
@login_required
@at_most(12)
def bring(request: HttpRequest) -> HttpResponse:
    """Take a bundle in as a study of one's own."""
    form = BundleForm(posted(request), posted_files(request))
    if form.is_valid():
        try:
            study = take_bundle(form.cleaned_data["file"], request.user)
        except UnreadableFileError as wrong:
            form.add_error("file", f"Not taken in: {wrong}.")
        else:
            messages.success(request, f"“{study.title}” is here; it is being read from its frames.")
            return go_to(request, "read:reading", study.pk)
    status = 422 if form.is_bound else 200
    return render(request, "decide/bring.html", {"form": form}, status=status)
