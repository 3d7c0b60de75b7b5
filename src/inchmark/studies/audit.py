"""Who changed what: one row for each thing that was done, in words an owner understands."""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar

from django.http import HttpRequest, HttpResponseBase

from inchmark.studies.models import Change, Study

# by the view's name; what has no words here fails a test
WORDS = {
    "studies:study-edit": "changed the question or the rules",
    "studies:note-decide": "decided about a side note",
    "decide:copy": "began the next study with this one",
    "decide:decision": "took a decision",
    "decide:report-make": "had a report made",
    "studies:put-back": "put back what was removed",
    "practice-walk": "sent practice boards out",
    "practice-truth": "had the truth of a practice shown",
    "studies:people": "invited someone",
    "studies:invitation-take-back": "took an invitation back",
    "studies:member-change": "changed someone’s role",
    "studies:member-remove": "removed a member",
    "studies:hand-over": "handed the study over",
    "studies:keeping": "changed how long logs are kept",
    "studies:leave": "left the study",
    "studies:end": "tried to delete the study",
    "shelf:rig-add": "added a rig",
    "shelf:rig-edit": "changed a rig",
    "shelf:rig-copy": "copied a rig",
    "shelf:rig-remove": "removed a rig",
    "shelf:part-add": "added a part",
    "shelf:part": "changed a part",
    "shelf:part-remove": "removed a part",
    "shelf:part-archive": "archived a part or put it back",
    "shelf:module-calibrate": "calibrated a module’s RSSI",
    "shelf:setting-add": "added a setting",
    "shelf:setting-edit": "changed a setting",
    "shelf:setting-remove": "removed or archived a setting",
    "shelf:files": "took a shelf file in",
    "shelf:sweep-add": "added a sweep",
    "shelf:sweep-remove": "removed a sweep",
    "shelf:centrings": "added a centring",
    "shelf:close-ranges": "added a close-range check",
    "shelf:close-range-finding": "kept a finding on a unit",
    "shelf:trace-levels": "corrected the states of a trace",
    "shelf:centring-follow": "did something after a centring",
    "shelf:close-range-answer": "answered a question of the fault tree",
    "shelf:traces": "added a current trace",
    "shelf:check-remove": "removed a bench check",
    "shelf:ladders": "added a conducted ladder",
    "shelf:ladder-use": "chose which sensitivity counts",
    "plan:site-edit": "changed the fixed end",
    "plan:stop-add": "added a stop",
    "plan:stops-file": "read stops from a file",
    "plan:stop-edit": "changed a stop",
    "plan:stop-remove": "removed a stop",
    "plan:stop-move": "moved a stop on the map",
    "plan:path": "typed a profile",
    "plan:point-add": "added a place",
    "plan:point-edit": "changed a place",
    "plan:point-remove": "removed a place",
    "plan:point-move": "moved a place on the map",
    "plan:point-path": "typed a profile",
    "plan:wall-add": "added a wall",
    "plan:wall-edit": "changed a wall",
    "plan:wall-remove": "removed a wall",
    "plan:features-add": "brought features of the map",
    "plan:features-remove": "took the features off the map",
    "plan:map-draw": "had a map drawn",
    "plan:terrain-add": "brought terrain",
    "plan:terrain-remove": "took the terrain off",
    "plan:design": "changed the design of the walk",
    "plan:power": "had the power of the plan worked out",
    "plan:frames-take": "took a number of frames over",
    "plan:shuffle": "shuffled the order of the visits",
    "plan:day": "changed the field day",
    "plan:cautions-read": "read the cautions",
    "walk:walk-add": "started a walk",
    "walk:walk-edit": "changed a walk",
    "walk:counts": "typed counts in",
    "walk:units-name": "named the units used",
    "walk:log-upload": "brought a log",
    "walk:boards-walk": "walked with simulated boards",
    "walk:pass-add": "let someone log into a walk",
    "walk:pass-end": "ended a pass",
    "walk:silent-visit": "logged a silent visit",
    "walk:bad-lines": "corrected lines of a log",
    "walk:file-again": "had a log read again",
    "walk:recipe": "said how a log is read",
    "walk:token": "made a token for a walk",
    "walk:stays": "changed the timeline of a walk",
    "walk:clock-set": "set the clock of a log",
    "walk:stay-move": "moved a boundary of the timeline",
    "walk:tracks": "brought a track",
    "walk:tracks-measure": "measured stops by a track",
    "walk:tracks-cut": "cut a walk into bins",
    "walk:tracks-clocks": "compared clocks of logs and tracks",
    "walk:track-change": "changed a track",
    "walk:track-from-log": "took the positions of a log",
    "walk:names": "named what logs call rigs and stops",
    "walk:file-aside": "set a log aside or took it back",
    "read:again": "had the study read again",
    "read:keep-surrounding": "kept a surrounding from the walk",
    "decide:keep-what-if": "kept a what-if as a rig",
    "decide:item-set": "gave an item of a budget a value",
    "decide:item-drop": "dropped a value of a budget",
    "api:add_frames": "sent frames through the API",
    "api:add_lines": "sent lines of a live source",
    "api:add_read_back": "kept what a board answered",
    "walk:presses": "counted by thumb",
    "walk:positions": "kept where a phone was",
    "walk:marks": "said where it stood, or a note, on a walk",
    "walk:photo-add": "added a photo to a walk",
    "walk:lines": "sent lines of a board from the browser",
}
_NAMES = ("letter", "label", "name", "title", "serial")


_request: ContextVar[HttpRequest | None] = ContextVar("request that may change", default=None)


def record(study_id: int, who: str, what: str, about: str = "") -> int | None:
    """Keep that someone did something, and return the row; nothing is kept of a study that is gone."""
    if not Study.objects.filter(pk=study_id).exists():
        return None
    row = Change.objects.create(study_id=study_id, who=who[:150], what=what[:80], about=about[:120])
    return int(row.pk)


def record_with_change(study_id: int) -> None:
    """Keep the row in the transaction that changes the study, where somebody's request does.

    A process that dies between the two then leaves both or neither.
    """
    request = _request.get()
    if request is not None and _study_of(request) == study_id and not _row_of(request):
        request.change_row = _record(request, study_id)  # type: ignore[attr-defined]


def record_changes(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Keep a row for every request that changed something of a study, with the change if it can be."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        if request.method != "POST":
            return get_response(request)
        before = _request.set(request)
        try:
            response = get_response(request)
        finally:
            _request.reset(before)
        study_id, refused = _study_of(request), getattr(request, "refused", False)
        done = response.status_code < 400 and not refused
        done = done and not getattr(request, "left_out", False)
        if study_id and done and request.user.is_authenticated and not _is_kept(request):
            _record(request, study_id)
        return response

    return answer


def leave_out(request: HttpRequest) -> None:
    """Keep no row for a request; its view keeps one where it begins something."""
    request.left_out = True  # type: ignore[attr-defined]


def _study_of(request: HttpRequest) -> int | None:
    match = request.resolver_match
    return match.kwargs.get("study_id") if match else None


def _row_of(request: HttpRequest) -> int | None:
    return getattr(request, "change_row", None)


def _is_kept(request: HttpRequest) -> bool:
    """Tell whether the row was kept with the change, and not undone with a change that failed."""
    row = _row_of(request)
    return row is not None and Change.objects.filter(pk=row).exists()


def _record(request: HttpRequest, study_id: int) -> int | None:
    view = request.resolver_match.view_name if request.resolver_match else ""
    if not request.user.is_authenticated:
        return None
    return record(study_id, request.user.get_username(), view, _about(request))


def _about(request: HttpRequest) -> str:
    """Return what the form says it is about: the letter, label or name typed, or the file's name."""
    found = next((request.POST[name] for name in _NAMES if request.POST.get(name)), "")
    files = [getattr(file, "name", "") or "" for file in request.FILES.values()]
    return (found or ", ".join(files)).replace("\x00", "")
