"""Keeping what a form holds: one way to save it, and to say what stands against it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from django import forms
from django.contrib import messages
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, JsonResponse, QueryDict
from django.utils.datastructures import MultiValueDict

from inchmark.devices.analyser import AnalyserError
from inchmark.formats.errors import UnreadableFileError

Made = TypeVar("Made")


def kept(form: forms.BaseForm, keep: Callable[[], object], *, file: str | None = "file") -> bool:
    """Keep what a form holds; what stands against it goes into the form, and False comes back.

    `file` names the field that a file which cannot be read is said at.
    """
    if not form.is_valid():
        return False
    try:
        keep()
    except (UnreadableFileError, AnalyserError) as wrong:
        form.add_error(file, str(wrong))
    except ValidationError as wrong:
        form.add_error(None, wrong.messages)
    return not form.errors


def outcome(request: HttpRequest, do: Callable[[], Made]) -> Made | None:
    """Return what a button asks for; what stands against it is told on the next page."""
    try:
        return do()
    except ValidationError as wrong:
        request.refused = True  # type: ignore[attr-defined]  # nothing was done: no row says so
        messages.error(request, " ".join(wrong.messages))
        return None


def done(request: HttpRequest, do: Callable[[], object]) -> bool:
    """Do what a button asks for, as `outcome`, where nothing is needed back."""
    return outcome(request, lambda: (do(), True)) is not None


def posted(request: HttpRequest) -> QueryDict | None:
    """Return what a form on the page has sent; None where the page is only shown."""
    return request.POST if request.method == "POST" else None


def posted_files(request: HttpRequest) -> MultiValueDict[str, UploadedFile] | None:
    """Return the files a form on the page has sent; None where the page is only shown."""
    return request.FILES if request.method == "POST" else None


def taken(
    request: HttpRequest, form: forms.BaseForm, take: Callable[[bytes, str], object], said: str
) -> bool:
    """Take in the file a form brings, and say so after its name; else as `kept`."""

    def keep() -> None:
        file = form.cleaned_data["file"]  # type: ignore[attr-defined]
        take(file.read(), file.name)
        messages.success(request, f"{file.name} {said}")

    return kept(form, keep)


def dragged(form: forms.BaseForm, move: Callable[..., float | None]) -> JsonResponse:
    """Answer a mark dragged on the map: how far off it now lies [m], or why it stays."""
    if not form.is_valid():
        return JsonResponse({"problem": "That is no place on earth."}, status=422)
    try:
        away = move(**form.cleaned_data)  # type: ignore[attr-defined]
    except ValidationError as wrong:
        return JsonResponse({"problem": " ".join(wrong.messages)}, status=422)
    return JsonResponse({"distance_m": away})


def problems_of(form: forms.BaseForm) -> list[str]:
    """Return the sentences that stand against a form."""
    return [str(problem) for one in form.errors.values() for problem in one]
