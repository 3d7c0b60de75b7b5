"""Steps of a centring that cannot be read are a sentence on the form, in whatever unit they are meant."""

import pytest
from django.urls import reverse

from tests import make

pytestmark = pytest.mark.django_db


@pytest.mark.parametrize("in_steps", [{}, {"in_steps": "on"}])
def test_steps_that_cannot_be_read_are_refused_on_the_form(owner_client, study, in_steps):
    address = reverse("shelf:centrings", args=[study.pk])
    sent = owner_client.post(address, {"steps": "99 of many", **in_steps})
    assert sent.status_code == 422
    assert "Not saved." in make.html(sent)
    assert not study.centrings.exists()
