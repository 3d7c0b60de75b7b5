"""What a rig may radiate and how often, and forms that begin on the study's own band."""

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse

from inchmark.core.antenna.match import Match
from inchmark.shelf.figures.limits import legal_checks
from inchmark.shelf.figures.rigs import rig_figures
from inchmark.shelf.services import rigs
from inchmark.shelf.services.rigs import save_rig
from inchmark.walk.services.boards import start_boards
from inchmark.walk.services.receive import RefusedError
from tests import make

pytestmark = pytest.mark.django_db


def test_a_mismatch_takes_its_loss_off_what_is_radiated(study):
    """VSWR 3: a quarter of the power comes back, 1.25 dB (printed tables of mismatch loss)."""
    rig = study.rigs.get()
    (before, *_) = legal_checks(rig, "EU")
    study.rigs.update(vswr=3.0)  # as a sweep leaves it
    (after, *_) = legal_checks(study.rigs.with_parts().get(), "EU")
    assert before.emission.eirp_dbm - after.emission.eirp_dbm == pytest.approx(1.249, abs=2e-3)
    assert Match.from_vswr(3.0).mismatch_loss_db == pytest.approx(1.249, abs=2e-3)


def test_messages_an_hour_keep_the_sub_band_where_it_allows_less(study):
    """868.0 to 868.6 MHz allows 1 % (EU row of the table, from memory); 10 % was typed."""
    rig = study.rigs.get()
    rig.frequency_hz, rig.duty_cycle_percent = 868.3e6, 10.0
    save_rig(study, rig)
    strict = rig_figures(study.rigs.with_parts().get())
    assert strict.duty.percent == 1.0
    assert "868" in strict.duty.source
    rig.duty_cycle_percent = 0.1
    save_rig(study, rig)
    own = rig_figures(study.rigs.with_parts().get())
    assert own.duty.percent == 0.1
    assert own.min_interval_s == pytest.approx(10 * strict.min_interval_s)


def test_the_boards_refuse_an_interval_that_breaks_the_sub_band(study):
    walk = make.walk(study, interval_s=0.5)
    rig = study.rigs.get()
    rig.frequency_hz, rig.duty_cycle_percent = 868.3e6, 10.0
    save_rig(study, rig)
    with pytest.raises(RefusedError, match=r"too often for rig A: at 1 % .*868.* every \d"):
        start_boards(walk, by=make.owner(study))
    assert not walk.files.exists()


@pytest.mark.parametrize("name", ["shelf:sweeps", "shelf:rig-add"])
def test_forms_begin_on_the_band_of_the_studys_rigs(client, name):
    study = make.study()
    make.rig(study, "A", frequency_hz=2440e6)
    client.force_login(make.owner(study))
    html = make.html(client.get(reverse(name, args=[study.pk])))
    assert 'value="868' not in html
    assert 'value="863' not in html
    assert 'value="24' in html or 'value="2.4' in html


def test_a_study_takes_so_many_rigs_and_no_more(study, monkeypatch):
    monkeypatch.setattr(rigs, "MOST_RIGS", 2)
    make.rig(study, "B")
    with pytest.raises(ValidationError, match="2 rigs at most"):
        make.rig(study, "C")
    save_rig(study, study.rigs.get(letter="B"))  # one that is there can be changed
