"""The HTTP API against requests made from its own schema (schemathesis): no 500, answers as told."""

import pytest
import schemathesis
from django.core.signals import request_finished, request_started
from django.core.wsgi import get_wsgi_application
from django.db import close_old_connections
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance

from inchmark.people.services import make_access_token
from tests import make

pytestmark = pytest.mark.django_db
DOORS = ("frames", "lines", "read-backs")
BOUNDED = settings(
    max_examples=60,
    deadline=None,
    derandomize=True,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow,
                           HealthCheck.filter_too_much, HealthCheck.data_too_large],
)  # fmt: skip


@pytest.fixture
def doors(settings):
    """The API's operations, called in this process so that the test's data are seen and undone."""
    settings.ALLOWED_HOSTS = ["*"]
    for signal in (request_started, request_finished):  # as Django's own test client does
        signal.disconnect(close_old_connections)
    schema = schemathesis.openapi.from_wsgi("/api/openapi.json", get_wsgi_application())
    yield {door: schema[f"/api/walks/{{walk_id}}/{door}"]["POST"] for door in DOORS}
    for signal in (request_started, request_finished):
        signal.connect(close_old_connections)


@pytest.mark.parametrize("mode", [GenerationMode.POSITIVE, GenerationMode.NEGATIVE])
@pytest.mark.parametrize("door", DOORS)
def test_no_request_is_answered_by_a_fault(door, mode, doors, study):
    walk = make.walk(study)
    token = make_access_token(make.owner(study), name="fuzz")
    cases = doors[door].as_strategy(generation_mode=mode)
    statuses = set()

    @BOUNDED
    @given(st.data())
    def run(data):
        case = data.draw(cases)
        if data.draw(st.booleans()):
            case.path_parameters["walk_id"] = walk.pk
        answer = case.call(
            headers={"Authorization": f"Bearer {token}", "Accept-Encoding": "identity"}
        )
        statuses.add(answer.status_code)
        case.validate_response(answer, checks=[not_a_server_error, response_schema_conformance])

    run()
    assert statuses <= {200, 202, 400, 401, 404, 405, 409, 413, 415, 422, 429}
    assert len(statuses) > 1
