"""One's own account: password, second factor, sessions, tokens, and its end."""

import re
from datetime import timedelta

import pytest
from django.contrib.sessions.models import Session
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django_otp.oath import totp
from django_otp.plugins.otp_totp.models import TOTPDevice

from inchmark.people import services
from inchmark.people.models import AccessToken, User
from inchmark.people.services import second_factor, sessions
from inchmark.studies.models import Membership
from tests import make

pytestmark = pytest.mark.django_db
PASSWORD = "tidal-marsh-4"


@pytest.fixture
def me():
    user = make.user("ann")
    user.set_password(PASSWORD)
    user.save()
    return user


@pytest.fixture
def mine(me):
    browser = Client()
    assert sign_in(browser).status_code == 302
    return browser


def sign_in(browser, **typed):
    typed = {"username": "ann", "password": PASSWORD} | typed
    return browser.post(reverse("people:sign-in"), typed, HTTP_USER_AGENT="a browser")


def page(name="account", *args):
    return reverse(f"people:{name}", args=args)


def code_of(user, step=0):
    """The code an app would show, so many half minutes from now."""
    device = TOTPDevice.objects.get(user=user)
    return f"{totp(device.bin_key, t0=-30 * step):06d}"


def turn_on(browser, user):
    browser.get(page("second-factor-on"))
    html = make.html(browser.post(page("second-factor-on"), {"code": code_of(user)}))
    return re.findall(r"<code>(\w{10})</code>", html)


def test_a_password_is_set_by_the_validators_and_signs_other_sessions_out(me, mine):
    other = Client()
    sign_in(other)
    weak = mine.post(
        page("password"),
        {"old_password": PASSWORD, "new_password1": "1234", "new_password2": "1234"},
    )
    assert weak.status_code == 422
    assert "too short" in make.html(weak)
    typed = {
        "old_password": PASSWORD,
        "new_password1": "sea-wall-77",
        "new_password2": "sea-wall-77",
    }
    assert mine.post(page("password"), typed).status_code == 302
    assert mine.get(page()).status_code == 200
    assert other.get(page()).status_code == 302
    assert sign_in(Client()).status_code == 200
    assert sign_in(Client(), password="sea-wall-77").status_code == 302


def test_who_came_by_a_link_sets_a_first_password_without_an_old_one(client):
    client.force_login(services.make_user("fresh"))
    typed = {"new_password1": "sea-wall-77", "new_password2": "sea-wall-77"}
    assert client.post(page("password"), typed).status_code == 302
    assert User.objects.get(username="fresh").has_usable_password()


def test_the_second_factor_is_asked_for_once_it_is_on(me, mine):
    assert len(turn_on(mine, me)) == second_factor.RECOVERY_CODES
    without = sign_in(Client())
    assert "has a second factor" in make.html(without)
    assert "is not right" in make.html(sign_in(Client(), code="000000"))
    TOTPDevice.objects.update(throttling_failure_count=0)
    assert sign_in(Client(), code=code_of(me, step=1)).status_code == 302


def test_a_code_is_good_once(me, mine):
    turn_on(mine, me)
    code = code_of(me, step=1)
    assert sign_in(Client(), code=code).status_code == 302
    assert sign_in(Client(), code=code).status_code == 200


def test_a_recovery_code_is_good_once(me, mine):
    code = turn_on(mine, me)[0]
    assert sign_in(Client(), code=code).status_code == 302
    assert second_factor.recovery_left(me) == second_factor.RECOVERY_CODES - 1
    assert sign_in(Client(), code=code).status_code == 200


def test_a_wrong_code_does_not_turn_it_on(me, mine):
    mine.get(page("second-factor-on"))
    response = mine.post(page("second-factor-on"), {"code": "12"})
    assert response.status_code == 422
    assert not second_factor.is_on(me)
    assert sign_in(Client()).status_code == 302


def test_it_is_turned_off_with_a_code_only(me, mine):
    codes = turn_on(mine, me)
    mine.post(page("second-factor-off"), {"code": ""})
    assert second_factor.is_on(me)
    mine.post(page("second-factor-off"), {"code": codes[0]})
    assert not second_factor.is_on(me)
    assert sign_in(Client()).status_code == 302


def test_sessions_are_listed_and_ended(me, mine):
    other = Client()
    sign_in(other)
    html = make.html(mine.get(page()))
    assert html.count("a browser") == 2
    assert "this one" in html
    theirs = me.signed_in.exclude(session_key=mine.session.session_key).get()
    mine.post(page("session-end", theirs.pk))
    assert other.get(page()).status_code == 302
    assert make.html(mine.get(page())).count("a browser") == 1


def test_sessions_that_ran_out_are_forgotten(me, mine):
    Session.objects.update(expire_date=timezone.now() - timedelta(seconds=1))
    other = Client()
    sign_in(other)
    sessions.forget_ended()
    assert [one.session_key for one in me.signed_in.all()] == [other.session.session_key]
    assert Session.objects.count() == 1


def test_nobody_ends_another_ones_session_or_token(me, mine, client):
    services.make_access_token(me, "bridge")
    client.force_login(make.user())
    assert client.post(page("session-end", me.signed_in.get().pk)).status_code == 404
    assert client.post(page("token-revoke", me.access_tokens.get().pk)).status_code == 404


def test_a_token_is_shown_once_kept_as_a_digest_and_revoked(me, mine):
    html = make.html(mine.post(page("token-add"), {"name": "bridge", "days": "30"}))
    secret = re.search(r'class="secret">([\w-]+)<', html).group(1)
    token = services.token_of(secret)
    assert token.user == me
    assert token.expires_at - timezone.now() < timedelta(days=30, seconds=1)
    assert secret not in make.html(mine.get(page()))
    mine.post(page("token-revoke", token.pk))
    assert services.token_of(secret) is None


def test_a_token_of_no_name_is_refused(mine):
    response = mine.post(page("token-add"), {"name": ""})
    assert response.status_code == 422
    assert not AccessToken.objects.exists()


def test_an_expired_token_opens_nothing(me):
    secret = services.make_access_token(me, "bridge", days=1)
    AccessToken.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
    assert services.token_of(secret) is None


def test_a_token_of_one_study_sends_into_no_other(client, me):
    here, there = make.walk(make.field_study(me)), make.walk(make.field_study(me))
    secret = services.make_access_token(me, "bridge", only_study=here.study_id)

    assert [make.post_frames(client, secret, to) for to in (here, there)] == [202, 404]


def test_only_studies_one_may_change_are_offered_for_a_token(me, mine):
    study = make.study(me, title="My own")
    seen = make.study(title="Seen only")
    Membership.objects.create(study=seen, user=me, role="viewer")
    html = make.html(mine.get(page()))
    assert "My own" in html
    assert "Seen only" not in html
    assert mine.post(page("token-add"), {"name": "x", "only_study": seen.pk}).status_code == 422
    assert mine.post(page("token-add"), {"name": "x", "only_study": study.pk}).status_code == 200


def test_an_account_ends_and_what_it_logged_stays(me, mine):
    study = make.field_study(make.user("owner"))
    Membership.objects.create(study=study, user=me, role="editor")
    file = make.log(make.walk(study), make.frames_log())
    type(file).objects.filter(pk=file.pk).update(by=me)
    secret = services.make_access_token(me, "bridge")
    mine.post(page("account-end"), {"typed": "someone"})
    assert User.objects.get(pk=me.pk).is_active
    assert mine.post(page("account-end"), {"typed": "ann"}).url == reverse("people:sign-in")
    me.refresh_from_db()
    assert (me.username, me.is_active) == (f"former member {me.pk}", False)
    assert mine.get(page()).status_code == 302
    assert sign_in(Client()).status_code == 200
    assert services.token_of(secret) is None
    assert study.walks.get().files.exists()


def test_the_only_owner_of_a_study_hands_it_over_first(me, mine):
    make.study(me, title="The marsh")
    html = make.html(mine.post(page("account-end"), {"typed": "ann"}, follow=True))
    assert "You alone own “The marsh”" in html
    assert User.objects.get(pk=me.pk).is_active


def test_someone_not_signed_in_has_no_account_page(client):
    assert client.get(page()).url.startswith(reverse("people:sign-in"))
