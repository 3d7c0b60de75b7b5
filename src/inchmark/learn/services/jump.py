"""Search and jump: any rig, stop, place, walk, log, page and passage of the docs, by a few letters."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from django.db.models import Q
from django.urls import reverse

from inchmark.core.wording import distance
from inchmark.learn.figures.docs import passages
from inchmark.plan.models import SitePoint, Stop
from inchmark.read.services import current_reading
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study
from inchmark.walk.models import FrameFile, Walk

MOST_EACH = 6
PAGES = {
    "shelf:rigs": "Shelf: rigs", "shelf:beside": "Shelf: rigs side by side", "plan:stops": "Plan: stops",
    "plan:map": "Plan: map", "plan:day": "Plan: the day", "walk:walks": "Walk: all walks", "read:reading": "Read",
    "decide:decide": "Decide: budget", "decide:places": "Decide: places", "decide:options": "Decide: options",
    "decide:decision": "Decide: decision", "decide:report": "Decide: report", "studies:study-edit": "Question and rules",
    "studies:people": "People of the study", "studies:changes": "Who changed what",
}  # fmt: skip
ANYWHERE = {
    "studies:list": "Studies", "begin-with-logs": "Bring a log", "studies:study-add": "New study",
    "workbench:workbench": "Workbench", "across": "The same rig across studies", "practice": "Practice",
    "help": "Help", "people:account": "Account",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """Something one can jump to."""

    kind: str
    words: str
    url: str


def found_for(user: Any, asked: str, study: Study | None) -> list[Found]:
    """Return what some letters may mean, of the study one is in first."""
    if not asked:
        return list(_pages("", study))[:12]
    studies = [study] if study else []
    mine = Study.objects.visible_to(user)
    return [
        *_things(studies, asked),
        *_pages(asked, study),
        *(
            Found(kind="study", words=one.title, url=one.get_absolute_url())
            for one in mine.filter(Q(title__icontains=asked) | Q(question__icontains=asked))[
                :MOST_EACH
            ]
        ),
        *(
            Found(
                kind="help",
                words=one.section.title,
                url=reverse("help-page", args=[one.section.doc]) + f"#{one.section.anchor}",
            )
            for one in passages(asked)[:MOST_EACH]
        ),
    ]


def _pages(asked: str, study: Study | None) -> Iterator[Found]:
    words = asked.lower().split()
    places: Iterable[tuple[str, str, list[int]]] = [
        *((name, title, [study.pk]) for name, title in PAGES.items() if study),
        *((name, title, []) for name, title in ANYWHERE.items()),
    ]
    for name, title, arguments in places:
        if all(word in title.lower() for word in words):
            yield Found(kind="page", words=title, url=reverse(name, args=arguments))


def _things(studies: list[Study], asked: str) -> Iterator[Found]:
    """Yield rigs, stops, places, walks and logs whose letters, names or numbers hold what is asked."""
    for study in studies:
        yield from _rigs(study, asked)
        named = Q(label__iexact=asked) | Q(name__icontains=asked)
        for stop in Stop.objects.filter(named, study=study)[:MOST_EACH]:
            page = reverse("read:reading", args=[study.pk])
            words = f"stop {stop.label} {stop.name} {distance(stop.distance_m)}"
            yield Found(kind="stop", words=words, url=f"{page}?stop={stop.label}#table")
        for point in SitePoint.objects.filter(named, study=study)[:MOST_EACH]:
            page = reverse("decide:places", args=[study.pk])
            yield Found(kind="place", words=f"{point.label} {point.name}", url=page)
        yield from _walks(study, asked)
        yield from _notes(study, asked)
        for file in FrameFile.objects.filter(walk__study=study, name__icontains=asked)[:MOST_EACH]:
            yield Found(kind="log", words=file.name, url=file.walk.get_absolute_url())


def _rigs(study: Study, asked: str) -> Iterator[Found]:
    named = (
        Q(letter__iexact=asked) | Q(module__icontains=asked) | Q(setting_part__name__icontains=asked)
        | Q(antenna__icontains=asked)
    )  # fmt: skip
    for rig in Rig.objects.filter(named, study=study)[:MOST_EACH]:
        yield Found(kind="rig", words=f"{rig.letter} {rig.name}", url=rig.get_absolute_url())


def _notes(study: Study, asked: str) -> Iterator[Found]:
    kept = current_reading(study)
    page = reverse("read:reading", args=[study.pk])
    for note in kept.reading.notes if kept else ():
        if asked.lower() in f"{note.title} {note.code}".lower():
            yield Found(kind="note", words=note.title, url=f"{page}#notes")


def _walks(study: Study, asked: str) -> Iterator[Found]:
    number = asked.lower().removeprefix("walk").strip()
    for walk in Walk.objects.filter(study=study):
        if number == str(walk.number) or asked in f"{walk.walked_on:%Y-%m-%d}":
            words = f"walk {walk.number}, {walk.walked_on:%d %b %Y}"
            yield Found(kind="walk", words=words, url=walk.get_absolute_url())
