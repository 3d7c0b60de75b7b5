"""The people of a study: links in, roles, the last owner, the end; and who changed what."""

import re

import pytest
from django.contrib.auth import get_user_model
from django.test import Client
from django.urls import get_resolver, reverse
from django.utils import timezone

from inchmark.plan.models import Stop
from inchmark.shelf.models import Module
from inchmark.studies import services as studies
from inchmark.studies.audit import WORDS
from inchmark.studies.models import Change, Invitation, Membership, Study
from inchmark.studies.services import people
from inchmark.walk.models import Frame
from tests import make
from tests.people.addresses import addresses, everything

pytestmark = pytest.mark.django_db


def page(study, name="people", *args):
    return reverse(f"studies:{name}", args=[study.pk, *args])


def link_of(client, study, role="viewer"):
    html = make.html(client.post(page(study), {"role": role, "note": "Ann"}))
    return "/joining/" + re.search(r"/joining/([\w-]+)/", html).group(1) + "/"


def role_of(study, user):
    return Membership.objects.get(study=study, user=user).role


def test_a_link_lets_one_person_in_with_an_account_of_their_own(owner_client, study):
    link, guest = link_of(owner_client, study, "editor"), Client()
    assert "invites you to" in make.html(guest.get(link))
    typed = {"username": "ann", "password1": "tidal-marsh-4", "password2": "tidal-marsh-4"}
    assert guest.post(link, typed).url == study.get_absolute_url()
    ann = get_user_model().objects.get(username="ann")
    assert role_of(study, ann) == "editor"
    assert guest.get(study.get_absolute_url()).status_code == 200
    assert Client().get(link).status_code == 410
    assert Client().post(link, typed | {"username": "ben"}).status_code == 410


def test_who_is_signed_in_joins_as_that(owner_client, study, client):
    other = make.user()
    guest = Client()
    guest.force_login(other)
    guest.post(link_of(owner_client, study))
    assert role_of(study, other) == "viewer"


def test_a_weak_password_is_refused_and_the_link_stays_good(owner_client, study):
    link = link_of(owner_client, study)
    response = Client().post(link, {"username": "ann", "password1": "1234", "password2": "1234"})
    assert response.status_code == 422
    assert "too short" in make.html(response)
    assert Client().get(link).status_code == 200


def test_only_a_digest_is_kept_and_an_old_or_taken_back_link_lets_nobody_in(owner_client, study):
    link = link_of(owner_client, study)
    invitation = Invitation.objects.get()
    assert link.split("/")[2] not in invitation.digest
    Invitation.objects.update(expires_at=timezone.now())
    assert Client().get(link).status_code == 410
    fresh = link_of(owner_client, study)
    newest = Invitation.objects.latest("pk")
    owner_client.post(page(study, "invitation-take-back", newest.pk))
    assert Client().get(fresh).status_code == 410


def test_a_link_never_lowers_a_role(owner_client, study):
    owner_client.post(link_of(owner_client, study, "viewer"))
    assert role_of(study, make.owner(study)) == "owner"


def test_links_have_an_end(owner_client, study, monkeypatch):
    monkeypatch.setattr(people, "MOST_OPEN", 1)
    link_of(owner_client, study)
    response = owner_client.post(page(study), {"role": "viewer"})
    assert response.status_code == 422
    assert "Take some back first" in make.html(response)


def test_only_an_owner_decides_who_is_in(client, study):
    editor, viewer = make.member(study, "editor"), make.member(study, "viewer")
    client.force_login(editor)
    assert client.get(page(study)).status_code == 200
    assert client.post(page(study), {"role": "owner"}).status_code == 404
    for name in ("member-change", "member-remove", "hand-over"):
        assert client.post(page(study, name, viewer.pk), {"role": "owner"}).status_code == 404
    assert client.post(page(study, "end"), {"typed": study.title}).status_code == 404
    assert "Invite someone" not in make.html(client.get(page(study)))


def test_roles_are_changed_and_members_removed(owner_client, study):
    other = make.member(study, "viewer")
    owner_client.post(page(study, "member-change", other.pk), {"role": "editor"})
    assert role_of(study, other) == "editor"
    html = make.html(
        owner_client.post(page(study, "member-change", other.pk), {"role": "king"}, follow=True)
    )
    assert "“king” is no role" in html
    owner_client.post(page(study, "member-remove", other.pk))
    assert not Study.objects.visible_to(other).exists()


def test_the_last_owner_cannot_go_but_can_hand_over(owner_client, study):
    mine, other = make.owner(study), make.member(study, "viewer")
    html = make.html(owner_client.post(page(study, "leave"), follow=True))
    assert "A study needs an owner" in html
    owner_client.post(page(study, "member-change", mine.pk), {"role": "viewer"})
    assert role_of(study, mine) == "owner"
    owner_client.post(page(study, "hand-over", other.pk))
    assert (role_of(study, mine), role_of(study, other)) == ("editor", "owner")
    assert owner_client.post(page(study, "leave")).url == reverse("studies:list")
    assert owner_client.get(page(study)).status_code == 404


def test_a_study_is_deleted_with_all_of_it_when_its_name_is_typed(owner_client, study):
    everything(study)
    other = make.field_study()
    everything(other)
    html = make.html(owner_client.get(page(study)))
    assert "Deleting takes 1 rig, 2 stops, 1 walk" in html
    html = make.html(owner_client.post(page(study, "end"), {"typed": "something"}, follow=True))
    assert "Type the study’s name" in html or "Type the study&#x27;s name" in html
    assert Study.objects.filter(pk=study.pk).exists()
    owner_client.post(page(study, "end"), {"typed": study.title})
    assert list(Study.objects.values_list("pk", flat=True)) == [other.pk]
    assert set(Frame.objects.values_list("file__walk__study", flat=True)) == {other.pk}
    assert set(Stop.objects.values_list("study", flat=True)) == {other.pk}
    assert set(Module.objects.values_list("study", flat=True)) == {other.pk}


def test_what_is_done_is_kept_with_who_did_it(owner_client, study):
    stop = {"label": "9", "distance_m": "90 m", "method": "tape", "plus_minus_m": "1 m"}
    assert owner_client.post(reverse("plan:stop-add", args=[study.pk]), stop).status_code == 302
    html = make.html(owner_client.get(page(study, "changes")))
    assert "added a stop" in html
    assert make.owner(study).username in html
    change = Change.objects.get()
    assert (change.what, change.about) == ("plan:stop-add", "9")


def test_a_change_and_its_row_are_kept_together_or_not_at_all(owner_client, study, monkeypatch):
    seen = []
    monkeypatch.setattr(studies, "_listeners", [*studies._listeners, seen_rows(seen)])
    stop = {"label": "9", "distance_m": "90 m", "method": "tape", "plus_minus_m": "1 m"}
    owner_client.post(reverse("plan:stop-add", args=[study.pk]), stop)
    assert seen == [["plan:stop-add"]]  # there before the transaction ends
    assert Change.objects.count() == 1

    def fail(study_id):
        raise RuntimeError

    monkeypatch.setattr(studies, "_listeners", [*studies._listeners, fail])
    with pytest.raises(RuntimeError):
        owner_client.post(reverse("plan:stop-add", args=[study.pk]), stop | {"label": "10"})
    assert Change.objects.count() == 1
    assert not study.stops.filter(label="10").exists()


def seen_rows(into):
    return lambda study_id: into.append(
        list(Change.objects.filter(study=study_id).values_list("what", flat=True))
    )


def test_what_was_refused_or_only_looked_at_is_no_change(owner_client, study):
    owner_client.get(reverse("shelf:rigs", args=[study.pk]))
    owner_client.post(reverse("plan:stop-add", args=[study.pk]), {"label": ""})
    owner_client.post(page(study, "leave"))
    assert not Change.objects.exists()


def test_the_name_of_who_changed_it_stays_when_the_account_goes(owner_client, study):
    owner_client.post(page(study), {"role": "viewer"})
    name = make.owner(study).username
    make.owner(study).delete()
    assert Change.objects.get().who == name


def test_everything_that_can_be_posted_has_words():
    posted = {one.name for one in addresses() if one.of_study and "POST" in allowed(one)}
    assert len(posted) > 40
    assert posted - set(WORDS) == set()


def views(resolver=None, space=""):
    for one in (resolver or get_resolver()).url_patterns:
        if hasattr(one, "url_patterns"):
            yield from views(one, f"{space}{one.namespace}:" if one.namespace else space)
        else:
            yield f"{space}{one.name}", one.callback


def allowed(address):
    """The methods a view takes, as its decorator was told."""
    view = dict(views())[address.name]
    methods = set()
    while view is not None:
        for cell in view.__closure__ or ():
            value = cell.cell_contents
            if isinstance(value, list) and all(isinstance(one, str) for one in value):
                methods |= set(value)
        view = getattr(view, "__wrapped__", None)
    return methods
