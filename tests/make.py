"""Builders: each makes a valid row and names only what the test is about."""

from __future__ import annotations

import datetime
import io
import itertools
import re
from collections.abc import Sequence

from django.urls import reverse
from PIL import Image

from inchmark.core.reading.result import Reading
from inchmark.decide.figures.budgets import BudgetBasis
from inchmark.people.models import User
from inchmark.plan.models import Stop
from inchmark.plan.services import save_stop
from inchmark.read.adapters import kept_reading
from inchmark.shelf.models import Rig
from inchmark.shelf.services.rigs import save_rig
from inchmark.studies.models import Membership, Study
from inchmark.studies.services import start_study
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.services.outing import start_walk
from inchmark.walk.services.receive import receive

_numbers = itertools.count(1)
LOG_HEADER = "rig,stop,seq,heard,rssi_dbm\n"


def user(username: str | None = None) -> User:
    return User.objects.create_user(username or f"user{next(_numbers)}", password="walks-far-1")


def study(by: User | None = None, **fields) -> Study:
    return start_study(by=by or user(), **({"title": "A study"} | fields))


def member(of: Study, role: str = "viewer") -> User:
    one = user()
    Membership.objects.create(study=of, user=one, role=role)
    return one


def owner(of: Study) -> User:
    return of.memberships.get(role="owner").user


def rig(of: Study, letter: str = "A", **fields) -> Rig:
    values = {"module": "Dulse L8", "spreading_factor": 7, "antenna": "stub coil"}
    return save_rig(of, Rig(letter=letter, **(values | fields)))


def stop(of: Study, label: str = "1", distance_m: float | None = 50.0, **fields) -> Stop:
    return save_stop(of, Stop(label=label, distance_m=distance_m, **fields))


def walk(of: Study | None = None, **fields) -> Walk:
    of = of or study()
    return start_walk(of, **({"walked_on": datetime.date(2026, 11, 14)} | fields))


def field_study(by: User | None = None, *, rigs: str = "A", stops: int = 2, **fields) -> Study:
    """A study with rigs on the shelf and stops at 50, 100, 200 … m."""
    one = study(by, **fields)
    for letter in rigs:
        rig(one, letter)
    for i in range(stops):
        stop(one, str(i + 1), 50.0 * 2**i)
    return one


def log(of: Walk, text: str | bytes, name: str = "log.csv", **options) -> FrameFile:
    """Receive and read a log at once."""
    data = text.encode() if isinstance(text, str) else text
    file = receive(of, name=name, blocks=[data], by=owner(of.study), queue=False, **options).file
    return import_frames(file.pk)


def picture(width: int = 40, height: int = 30, kind: str = "JPEG", **options) -> io.BytesIO:
    """A picture as a camera's file."""
    out = io.BytesIO()
    Image.new("RGB", (width, height), (90, 120, 60)).save(out, kind, **options)
    out.seek(0)
    return out


def frames_log(
    rig: str = "A", stop: str = "1", heard: int = 20, lost: int = 0, rssi: float = -90
) -> str:
    """The text of a log of one visit."""
    rows = [f"{rig},{stop},{i},1,{rssi}" for i in range(heard)]
    rows += [f"{rig},{stop},{heard + i},0," for i in range(lost)]
    return LOG_HEADER + "\n".join(rows) + "\n"


def post_frames(client, secret: str, walk) -> int:
    """Send a log into a walk with a token, as a bridge does; the status."""
    return client.post(
        f"/api/walks/{walk.pk}/frames",
        frames_log(),
        content_type="text/csv",
        headers={"Authorization": f"Bearer {secret}"},
    ).status_code


def post_ladder(client, study: Study, rows: str, **changes):
    """Type a conducted ladder of the study's first rig on its page."""
    typed = {
        "rig": study.rigs.first().pk,
        "checked_on": "2026-11-12",
        "source_dbm": "0 dBm",
        "fixed_loss_db": "20",
        "steps": rows,
    }
    return client.post(reverse("shelf:ladders", args=[study.pk]), typed | changes, follow=True)


def reading(of: Study) -> Reading:
    """The study's latest reading, as it is kept."""
    return kept_reading(of).reading


def ground(of: Study, site=None) -> BudgetBasis:
    """What the study's budgets stand on."""
    of.refresh_from_db()
    rigs = list(of.rigs.with_parts())
    return BudgetBasis(study=of, rigs=rigs, site=site, kept=kept_reading(of))


def missing(response, words: Sequence[str]) -> list[str]:
    """The words a page does not say."""
    page = html(response)
    return [one for one in words if one not in page]


def html(response) -> str:
    """A page's text as a browser takes it: runs of white space are one space."""
    return re.sub(r"[ \t\r\n]+", " ", response.content.decode())
