"""Every address of the program, found in its URL resolver, and a study with something at each."""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from dataclasses import dataclass

from django.urls import URLPattern, get_resolver, reverse

from inchmark.core.gathering.way import Point
from inchmark.decide.models import Report
from inchmark.decide.services.budget import set_item
from inchmark.learn.models import Practice
from inchmark.plan.models import SitePoint, SiteWall
from inchmark.plan.services.points import save_point
from inchmark.plan.services.walls import save_wall
from inchmark.shelf.models import (
    Antenna,
    Battery,
    Centring,
    CloseRange,
    ConductedCheck,
    CurrentTrace,
    Feed,
    Module,
    Setting,
    Sweep,
    Unit,
)
from inchmark.shelf.services.parts import save_part
from inchmark.studies.models import Removed, Study
from inchmark.studies.services.people import invite
from inchmark.walk.services.field import make_pass
from inchmark.walk.services.photos import keep_photo
from inchmark.walk.services.tracks import add_track
from tests import make

TRACE = b"time_ms,current_mA\n" + b"".join(
    b"%d,%.1f\n" % (ms, 30.0 if 400 <= ms < 450 else 0.1) for ms in range(1000)
)
DAY = datetime.date(2026, 11, 14)
# addresses of no study: how one gets in, the list of one's own, and what has tests of its own
OF_NO_STUDY = {
    "begin-with-logs",
    "guide",
    "guide-step",
    "guide-end",
    "help",
    "help-page",
    "jump",
    "practice",
    "practice-begin",
    "bring-bundle",
    "across",
    "http-api",
    "workbench:workbench",
    "workbench:answer",
    "workbench:begin",
    "people:sign-in",
    "people:sign-in-link",
    "people:sign-out",
    "people:account",
    "people:password",
    "people:figures",
    "people:token-add",
    "people:token-revoke",
    "people:session-end",
    "people:second-factor-on",
    "people:second-factor-off",
    "people:account-end",
    "field-enter",
    "studies:list",
    "studies:study-add",
    "studies:join",
    "api:openapi-json",
    "api:api-root",
    "api:add_frames",
    "api:add_lines",
    "api:add_read_back",
    "upkeep:live",
    "upkeep:ready",
    "upkeep:metrics",
}


@dataclass(frozen=True)
class Address:
    """A named address: its route and the names in it."""

    name: str
    route: str
    takes: frozenset[str]

    @property
    def of_study(self) -> bool:
        return self.route.startswith("studies/<int:study_id>/")

    def urls(self, pks: dict[str, object], study: Study) -> list[str]:
        """Return the address filled in, once for each kind of thing it serves."""
        nested = self.takes - {"study_id"}
        if nested == {"kind"}:
            choices = [{"kind": kind} for kind in pks["kind"]]
        elif nested == {"kind", "part_id"}:
            choices = [{"kind": kind, "part_id": pk} for kind, pk in pks["kind"].items()]
        elif nested == {"page", "check_id"}:
            choices = [{"page": page, "check_id": pk} for page, pk in pks["page"].items()]
        else:
            choices = [{name: _pk(pks, self.name, name) for name in nested}]
        return [reverse(self.name, kwargs={"study_id": study.pk} | one) for one in choices]


def addresses() -> list[Address]:
    """Return every named address of the program."""
    return sorted(_walk(get_resolver()), key=lambda one: one.name)


def _walk(resolver, route: str = "", space: str = "", takes: frozenset[str] = frozenset()):
    for one in resolver.url_patterns:
        here, named = route + str(one.pattern), takes | set(one.pattern.regex.groupindex)
        if isinstance(one, URLPattern):
            yield Address(f"{space}{one.name}", here, frozenset(named))
        else:
            yield from _walk(
                one, here, f"{space}{one.namespace}:" if one.namespace else space, named
            )


def _pk(pks: dict[str, object], address: str, name: str) -> object:
    """Return the id for a name in an address; an unknown name fails the test."""
    return pks[name][address] if isinstance(pks[name], dict) else pks[name]


def everything(study: Study) -> dict[str, object]:
    """Put one of each thing into a study; return the id of each by its name in addresses."""
    walk = make.walk(study)
    file = make.log(walk, make.frames_log() + "bad line\n")
    rig = study.rigs.get(letter="A")
    module = save_part(study, Module(name="Kelp"))
    kinds = {
        "modules": module,
        "antennas": save_part(study, Antenna(name="coil", gain_dbi=2.0)),
        "feeds": save_part(study, Feed(name="lead", cable="thin", length_m=1.0)),
        "batteries": save_part(study, Battery(name="cell", capacity_ah=2.4)),
        "units": save_part(study, Unit(module=module, serial="K-1")),
    }
    sweep = Sweep.objects.create(
        study=study,
        antenna="coil",
        swept_on=DAY,
        name="a.s1p",
        data=b"x",
        points=[[863e6, 0.1, 0.0], [870e6, 0.2, 0.0]],
    )
    trace = CurrentTrace.objects.create(
        study=study, rig=rig, traced_on=DAY, name="a.csv", data=TRACE
    )
    ladder = ConductedCheck.objects.create(
        study=study,
        rig=rig,
        checked_on=DAY,
        source_dbm=0,
        steps=[[90, 20, 20], [100, 20, 12], [110, 20, 0]],
    )
    close = CloseRange.objects.create(study=study, rig=rig, checked_on=DAY, parallel_dbm=-30)
    centring = Centring.objects.create(
        study=study, rig=rig, checked_on=DAY, steps=[[-9000, 20, 2], [0, 20, 20], [9000, 20, 3]]
    )
    checks = {"traces": trace, "ladders": ladder, "close-ranges": close, "centrings": centring}
    make_pass(walk, "Ben")
    points = [Point(0.0, 47.5, -21.0), Point(9.0, 47.5, -21.1)]
    track = add_track(walk, "way", points, end="carried", by=make.owner(study))
    photo = keep_photo(walk, make.picture(), by=make.owner(study))
    invite(study, "viewer", note="", by=make.owner(study))
    invitation = study.invitations.latest("pk")
    Practice.objects.create(study=study, scenario="meadow", seed=1)
    Report.objects.create(study=study, state=Report.DONE, pdf=b"%PDF-", pages=1)
    return {
        "rig_id": rig.pk,
        "removed_id": Removed.objects.create(
            study=study, words="x", data={"rows": [], "loosened": []}
        ).pk,
        "user_id": make.member(study, "editor").pk,
        "invitation_id": invitation.pk,
        "pass_id": walk.passes.get().pk,
        "stop_id": study.stops.first().pk,
        "point_id": save_point(study, SitePoint(kind="node", name="sluice", lat=47.5, lon=-21)).pk,
        "wall_id": save_wall(study, SiteWall(points=[[47.5, -21], [47.6, -21]])).pk,
        "walk_id": walk.pk,
        "track_id": track.pk,
        "photo_id": photo.pk,
        "file_id": file.pk,
        "visit_id": walk.visits.get().pk,
        "module_id": module.pk,
        "setting_id": save_part(study, Setting(module=module, name="slow", spreading_factor=9)).pk,
        "sweep_id": sweep.pk,
        "item_id": set_item(rig, "carried_feed", 1.0, "measured").pk,
        "kind": {kind: one.pk for kind, one in kinds.items()},
        "page": {page: one.pk for page, one in checks.items()},
        "check_id": {
            "shelf:close-range-answer": close.pk,
            "shelf:centring-follow": checks["centrings"].pk,
            "shelf:close-range-finding": close.pk,
            "shelf:trace-file": trace.pk,
            "shelf:trace-levels": trace.pk,
            "shelf:ladder-use": ladder.pk,
        },
    }


def swapped(study: Study, other: dict[str, object]) -> Iterator[tuple[str, str]]:
    """Yield name and URL of every nested address with another study's rows under this one."""
    for one in addresses():
        if one.of_study and one.takes - {"study_id", "kind"}:
            yield from ((one.name, url) for url in one.urls(other, study))
