"""What a walk says of a study's rigs: a later room hands it over."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from inchmark.studies.models import Study


@dataclass(frozen=True, slots=True, kw_only=True)
class FailingStop:
    """A stop at which a rig fell short of the study's rule, in words, and where its frames are seen."""

    stop: str
    words: str
    url: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkedRigs:
    """The slope of the paths walked; by letter how far each rig reaches [m], and where it falls short."""

    exponent: float | None = None
    words: str = ""
    ranges_m: Mapping[str, float] = field(default_factory=dict)
    failing: Mapping[str, Sequence[FailingStop]] = field(default_factory=dict)


Source = Callable[[Study], WalkedRigs | None]
_sources: list[Source] = []


def provide_walked_rigs(source: Source) -> None:
    """Take what a walk says of rigs from a later room."""
    if source not in _sources:
        _sources.append(source)


def walked_rigs(study: Study) -> WalkedRigs:
    """Return what a walk says; nothing before there is one."""
    found = (source(study) for source in _sources)
    return next((one for one in found if one is not None), WalkedRigs())
