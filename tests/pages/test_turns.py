"""Requests take turns in the order they came; what is kept is made once."""

from __future__ import annotations

import os
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from django import forms
from django.db import connection
from django.template import Context, Template

from inchmark.config.standing_back import BEHIND, stand_back
from inchmark.pages.middleware import Turns
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study


def test_turns_go_to_who_waits_longest() -> None:
    turns, order = Turns(1), []
    assert turns.take(1)
    with ThreadPoolExecutor(5) as pool:

        def wait(number: int) -> None:
            assert turns.take(5)
            order.append(number)
            turns.give_back()

        for number in range(5):
            pool.submit(wait, number)
            time.sleep(0.05)  # so that they stand in this order
        turns.give_back()
    assert order == [0, 1, 2, 3, 4]


def test_who_waits_too_long_goes_without_a_turn_and_loses_none() -> None:
    turns = Turns(1)
    assert turns.take(1)
    assert not turns.take(0.05)
    turns.give_back()
    assert turns.take(0.05)


def test_what_many_ask_for_at_once_is_worked_out_once() -> None:
    made: list[int] = []

    def make() -> int:
        time.sleep(0.1)
        made.append(1)
        return 7

    study = Study(pk=-1, revision=3)
    with ThreadPoolExecutor(6) as pool:
        got = list(pool.map(lambda _: per_revision(study, "slow", make), range(6)))
    assert got == [7] * 6
    assert made == [1]


def test_a_value_that_cannot_be_made_is_tried_again_by_the_next() -> None:
    study = Study(pk=-2, revision=1)

    def fail() -> int:
        raise RuntimeError

    with pytest.raises(RuntimeError):
        per_revision(study, "wrong", fail)
    assert per_revision(study, "wrong", lambda: 5) == 5


@pytest.mark.django_db
def test_a_worker_s_connection_stands_back() -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    pid = connection.connection.info.backend_pid
    before = os.getpriority(os.PRIO_PROCESS, pid)
    group = Path(f"/proc/{pid}/autogroup")
    try:
        stand_back(None, connection)
        assert os.getpriority(os.PRIO_PROCESS, pid) == BEHIND
        if group.exists():
            assert group.read_text().split()[-2:] == ["nice", str(BEHIND)]
    finally:
        if os.geteuid() == 0:
            os.setpriority(os.PRIO_PROCESS, pid, before)


def test_fields_that_came_back_with_what_was_typed_are_drawn_anew() -> None:
    class Named(forms.Form):
        name = forms.CharField()

    page = Template('{% load kept %}{% kept study "part" form %}{{ form.name }}{% endkept %}')
    study = Study(pk=-3, revision=1)
    empty = page.render(Context({"study": study, "form": Named()}))
    typed = page.render(Context({"study": study, "form": Named({"name": "a mast"})}))
    assert "a mast" in typed
    assert page.render(Context({"study": study, "form": Named()})) == empty
    assert "a mast" not in empty
