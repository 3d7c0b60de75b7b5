"""Anything may be sent to any address: no answer is a fault of ours, none takes long.

A short run of what `INCHMARK_FUZZ=100000 pytest tests/people/test_fuzz.py` does at length; seeded, so
that what fails fails again.
"""

import logging
import os
import random
import re
import string
import time
import traceback

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.signals import got_request_exception
from django.test import Client

from inchmark.people.services import rates
from inchmark.read.services import make_reading
from tests import make
from tests.people.addresses import addresses, everything

REQUESTS = int(os.environ.get("INCHMARK_FUZZ", "400"))
SEED, LONGEST_S = int(os.environ.get("INCHMARK_FUZZ_SEED", "20261126")), 5.0
NASTY = [
    "", " ", "0", "-1", "1e308", "-1e308", "1e-320", "nan", "inf", "9" * 400, "1,5", "12 dBm", "868.1 MHz",
    "9**9**9 m", "2026-11-14", "2026-02-31", "24:00", "A", "a1!", "%", "%s", "{}", "{{ 7 }}", "<script>",
    "' OR 1=1 --", "\x00", "\ud800", "‮abc", "🐟" * 50, "../../etc/passwd", "=cmd()", "on", "null", "[]",
    '{"a": [1', "0,0", "90.0001", "180", "x" * 5000, "\n\n", "1\n2\n3", "96, 100, 100\n98;100;99",
]  # fmt: skip
FILES = [
    b"", b"\x00" * 2000, b"rig,stop,seq,heard\nA,1,1,1\n", b"stop,distance_m\n1,50\n", b"# MHz S RI R 50\n800 0.1 0\n",
    b'{"type":"FeatureCollection","features":[]}', b"<gpx><wpt lat='1' lon='2'/></gpx>", b"II*\x00" + b"\xff" * 500,
    b"PK\x03\x04", b"ncols 3\nnrows 1\nxllcorner 0\n1 2 3\n", b"time_ms,current_mA\n0,1\n1,2\n", "säge\n".encode("utf-16"),
]  # fmt: skip
FIELD = re.compile(r'name="([^"]+)"')
LEAVES = {"studies:end", "studies:leave", "studies:member-remove", "studies:hand-over"}


class Sender:
    """Somebody who sends anything anywhere."""

    def __init__(self, study, seed=SEED):
        self.wrong = ""
        got_request_exception.connect(self.keep)
        self.chance, self.client = random.Random(seed), Client(raise_request_exception=False)
        self.client.force_login(make.owner(study))
        pks = everything(study)
        make_reading(study.pk)
        found = [
            (one.name, url)
            for one in addresses()
            if one.of_study and one.name not in LEAVES | {"studies:member-change"}
            for url in one.urls(pks, study)
        ]
        self.targets = [(name, url, self._fields(url)) for name, url in found]

    def keep(self, **told):
        self.wrong = traceback.format_exc(limit=-3)

    def _fields(self, url):
        answer = self.client.get(url)
        text = b"".join(answer.streaming_content) if answer.streaming else answer.content
        return sorted(set(FIELD.findall(text.decode("utf-8", "replace")))) or ["q", "file"]

    def value(self):
        if self.chance.random() < 0.7:
            return self.chance.choice(NASTY)
        letters = string.printable + "äµΩ–“\x7f"
        return "".join(self.chance.choices(letters, k=self.chance.randint(1, 30)))

    def send(self):
        """Send one thing; return what and where, the status and how long it took."""
        name, url, fields = self.chance.choice(self.targets)
        some = self.chance.sample(fields, self.chance.randint(0, min(len(fields), 12)))
        values = {field: self.value() for field in some}
        htmx = {"HX-Request": "true"} if self.chance.random() < 0.2 else {}
        began = time.perf_counter()
        try:
            if self.chance.random() < 0.4:
                answer = self.client.get(url, _plain(values), headers=htmx)
            else:
                if self.chance.random() < 0.3:
                    data = self.chance.choice(FILES)
                    values["file"] = SimpleUploadedFile(self.chance.choice("ab") + ".hgt", data)
                answer = self.client.post(url, _plain(values), headers=htmx)
        except UnicodeEncodeError:  # the client itself cannot say it
            return name, values, 200, 0.0
        return name, values, answer.status_code, time.perf_counter() - began


def _plain(values):
    return {
        name: value.replace("\ud800", "?") if isinstance(value, str) else value
        for name, value in values.items()
    }


# a long run commits, as the app does: in one transaction the database may not clear away the row
# versions of tens of thousands of changes, and every read of a study wades through them
@pytest.mark.django_db(transaction=REQUESTS > 5_000)
def test_anything_may_be_sent_anywhere(study, monkeypatch, caplog):
    caplog.set_level(logging.CRITICAL)
    monkeypatch.setattr(rates, "spend", lambda user, what: 1)  # the limit has tests of its own
    sender = Sender(study)
    assert len(sender.targets) > 60
    for number in range(REQUESTS):
        name, values, status, seconds = sender.send()
        assert status < 500, (number, name, sender.wrong, values)
        assert seconds < LONGEST_S, (number, name, values, seconds)
