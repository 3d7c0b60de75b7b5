"""The step of the guided reading on any page, while one is under way."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest

from inchmark.learn.figures.guide import STEPS, page_of

KEY = "guide"


def guide(request: HttpRequest) -> dict[str, Any]:
    """Return the step under way if its page is the one that is shown."""
    session = getattr(request, "session", None)
    under_way = session.get(KEY) if session is not None else None
    if not under_way:
        return {}
    number, study_id = under_way["step"], under_way["study"]
    if not 1 <= number <= len(STEPS) or request.path != page_of(number, study_id):
        return {}
    return {"guide_at": number, "guide_steps": len(STEPS), "guide_step": STEPS[number - 1]}
