"""The number of a request goes with its lines, into the worker too."""

import json
import logging

import pytest
from procrastinate.contrib.django.models import ProcrastinateJob

from inchmark.pages.logs import JsonLines, Numbered, request_id, working_for
from inchmark.studies.queue import queue_once


def line(message, **extra):
    record = logging.LogRecord("inchmark", logging.INFO, "", 0, message, (), None)
    record.__dict__.update(extra)
    Numbered().filter(record)
    return json.loads(JsonLines().format(record))


def test_a_line_carries_the_number_of_what_it_is_for():
    with working_for("abc"):
        assert line("read")["request"] == "abc"
    assert line("read")["request"] == "-"


def test_a_trace_stays_inside_its_line():
    try:
        raise ValueError("no")
    except ValueError as wrong:
        found = line("failed", exc_info=(type(wrong), wrong, wrong.__traceback__))
    assert "ValueError: no" in found["trace"]


@pytest.mark.parametrize(
    ("given", "kept"), [("proxy-7", True), ("", False), ("x" * 65, False), ("a b\n", False)]
)
def test_a_proxys_number_is_kept_and_nonsense_is_not(client, given, kept):
    number = client.get("/health/live", headers={"X-Request-ID": given})["X-Request-ID"]
    assert (number == given) is kept
    assert number
    assert request_id() == ""


def test_a_job_knows_the_request_that_asked_for_it(db):
    with working_for("abc"):
        queue_once("inchmark.read.tasks.read_study", "read", once="x", study_id=1)
    assert ProcrastinateJob.objects.get(queueing_lock="x").args == {
        "study_id": 1,
        "request_id": "abc",
    }
