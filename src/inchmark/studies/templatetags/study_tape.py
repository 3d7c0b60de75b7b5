"""The tape across the top of every page of a study."""

from __future__ import annotations

from collections.abc import Hashable

from django import template
from django.template.loader import render_to_string
from django.utils.html import format_html
from django.utils.safestring import SafeString

from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study
from inchmark.studies.tape.layout import Tape, tape_of
from inchmark.studies.tape.marks import RangeMark, stamp_of

register = template.Library()


@register.simple_tag
def tape(study: Study, current_stop: str = "", tried: RangeMark | str = "") -> SafeString:
    """Draw the tape, once for a revision and a reading of the study; anew where a change is tried."""
    if isinstance(tried, RangeMark):
        return _drawn(study, tape_of(study, current_stop=current_stop, tried=tried))

    def draw() -> SafeString:
        return _drawn(study, _laid(study, current_stop))

    return per_revision(study, "tape", draw, current_stop, _stamp(study))


@register.simple_tag
def tape_again(study: Study, tried: RangeMark | str = "") -> SafeString:
    """Draw the tape to go in the place of the one on the page, when only a part was asked for."""
    laid = tape_of(study, tried=tried) if isinstance(tried, RangeMark) else _laid(study, "")
    return _drawn(study, laid, swap=True)


def _drawn(study: Study, laid: Tape, *, swap: bool = False) -> SafeString:
    return render_to_string("studies/_tape.html", {"tape": laid, "study": study, "swap": swap})


@register.simple_tag
def stand_next(study: Study) -> SafeString:
    """Say where to stand next, nothing where that is not known."""
    found = _laid(study, "").next
    if found is None:
        return SafeString("")
    return format_html('<p class="guidance"><a href="{}">{}</a></p>', found.url, found.words)


def _laid(study: Study, current_stop: str) -> Tape:
    return per_revision(
        study,
        "tape-laid",
        lambda: tape_of(study, current_stop=current_stop),
        current_stop,
        _stamp(study),
    )


def _stamp(study: Study) -> Hashable:
    """Return what the tape depends on besides the revision, asked once for a page."""
    known = vars(study)
    if "_tape_stamp" not in known:
        known["_tape_stamp"] = stamp_of(study)
    stamp: Hashable = known["_tape_stamp"]
    return stamp
