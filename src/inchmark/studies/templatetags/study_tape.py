"""The tape across the top of every page of a study."""

from __future__ import annotations

from typing import Any

from django import template

from inchmark.studies.models import Study
from inchmark.studies.tape import tape_of

register = template.Library()


@register.inclusion_tag("studies/_tape.html")
def tape(study: Study, current_stop: str = "") -> dict[str, Any]:
    """Draw the tape."""
    return {"tape": tape_of(study, current_stop=current_stop), "study": study}
