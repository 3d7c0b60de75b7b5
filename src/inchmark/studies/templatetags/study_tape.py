"""The tape across the top of every page of a study."""

from __future__ import annotations

from django import template
from django.template.loader import render_to_string
from django.utils.safestring import SafeString

from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study
from inchmark.studies.tape import stamp_of, tape_of

register = template.Library()


@register.simple_tag
def tape(study: Study, current_stop: str = "") -> SafeString:
    """Draw the tape, once for a revision and a reading of the study."""

    def draw() -> SafeString:
        context = {"tape": tape_of(study, current_stop=current_stop), "study": study}
        return render_to_string("studies/_tape.html", context)

    return per_revision(study, "tape", draw, current_stop, stamp_of(study))
