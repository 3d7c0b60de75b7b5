"""Monitors: who may ask, what they are told, and what is said while the database is away."""

import pytest
from django.db import OperationalError
from django.test import Client, override_settings
from psycopg import errors as pg

from inchmark.pages import errors
from inchmark.upkeep.services import health


def test_a_live_process_says_so_without_the_database(client):
    assert client.get("/health/live").content == b"live\n"


def test_ready_tells_of_database_disk_and_queues(client, db):
    found = client.get("/health/ready").json()
    assert found["ready"] is True
    assert found["database"] is True
    assert found["problems"] == []


def test_a_full_disk_is_not_ready_and_says_where(client, db, monkeypatch):
    monkeypatch.setattr(health, "LITTLE_BYTES", 2**60)
    response = client.get("/health/ready")
    assert response.status_code == 503
    assert "MB are left on the disk of" in response.json()["problems"][0]


def test_a_database_that_is_away_is_not_ready(client, monkeypatch):
    def away():
        raise OperationalError("away")

    monkeypatch.setattr(health, "queues", away)
    response = client.get("/health/ready")
    assert response.status_code == 503
    assert response.json()["problems"] == ["The database does not answer."]


def test_a_job_that_waits_long_is_a_problem_but_pages_go_on(client, db, monkeypatch):
    old = health.Queue(name="read", depth=3, age_s=600.0)
    monkeypatch.setattr(health, "queues", lambda: (old,))
    response = client.get("/health/ready")
    assert response.status_code == 200
    assert "A job of “read” has waited 600 s" in response.json()["problems"][0]
    assert response.json()["queues"] == {"read": {"depth": 3, "age_s": 600.0}}


@pytest.mark.parametrize("page", ["/health/ready", "/metrics"])
def test_from_elsewhere_only_the_token_opens(db, page):
    far = Client(REMOTE_ADDR="192.0.2.7")
    shown = {"Authorization": "Bearer monitor-token"}
    assert far.get(page).status_code == 404
    assert far.get(page, headers=shown).status_code == 404
    with override_settings(MONITOR_TOKEN="monitor-token"):
        assert far.get(page, headers=shown).status_code == 200
        assert far.get(page, headers={"Authorization": "Bearer x"}).status_code == 404


def test_metrics_count_answers_by_view_and_tell_of_the_database(client, db):
    client.get("/sign-in/")
    text = client.get("/metrics").content.decode()
    assert 'inchmark_requests_total{method="GET",status="200",view="people:sign-in"}' in text
    assert "inchmark_database_up 1.0" in text


def caused(kind):
    wrong = OperationalError("as Django wraps it")
    wrong.__cause__ = kind("from the server")
    return wrong


@pytest.mark.parametrize(
    ("kind", "title"),
    [
        (pg.DiskFull, "The disk is full"),
        (pg.QueryCanceled, "This took too long and was ended"),
        (pg.LockNotAvailable, "Someone else is changing the same thing"),
        (pg.AdminShutdown, "The database does not answer"),
        (pg.OperationalError, "The database does not answer"),
    ],
)
def test_what_the_database_cannot_do_now_is_said(rf, kind, title):
    try:
        raise caused(kind)
    except OperationalError:
        response = errors.failed(rf.get("/"))
    assert response.status_code == 503
    assert title in response.content.decode()
    assert response["Retry-After"]


def test_a_fault_of_ours_stays_a_fault_of_ours(rf):
    try:
        raise caused(pg.UniqueViolation)
    except OperationalError:
        assert errors.failed(rf.get("/")).status_code == 500


def test_a_page_there_is_not_touches_no_database(rf, django_assert_num_queries, db):
    with django_assert_num_queries(0):
        assert errors.not_found(rf.get("/nothing/"), Exception()).status_code == 404
