"""Bench checks on their pages: centring, close range, ladders from a log, current traces."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from inchmark.demo import marsh
from inchmark.demo.services import marsh_trace
from inchmark.shelf.adapters.traces import reading_of
from inchmark.shelf.adapters.walked import FailingStop
from inchmark.shelf.figures.centring import centring_result
from inchmark.shelf.figures.close_range import close_range_results
from inchmark.shelf.figures.conducted import result_of
from inchmark.shelf.models import (
    Battery,
    Centring,
    CloseRange,
    ConductedCheck,
    CurrentTrace,
    Module,
    Unit,
)
from inchmark.shelf.services.parts import save_part
from inchmark.shelf.services.rigs import save_rig
from tests import make

pytestmark = pytest.mark.django_db
HELD = "-30, 20, 0\n-20, 20, 18\n0, 20, 20\n20, 20, 20\n40, 20, 17\n50, 20, 1"


def page_of(study, name):
    return reverse(f"shelf:{name}", args=[study.pk])


def centring(client, study, **changes):
    typed = {
        "rig": study.rigs.get().pk,
        "unit": "L8-11",
        "checked_on": "2026-11-12",
        "drift_ppm": "20",
        "steps": HELD,
    }
    return client.post(page_of(study, "centrings"), typed | changes, follow=True)


def test_a_centred_receiver_gets_its_offset_and_what_to_do_next(owner_client, study):
    html = make.html(centring(owner_client, study))
    assert "Set the offset to 10 kHz" in html
    assert "11.5 ppm" in html  # 10 kHz of 868.1 MHz
    assert "read it back" in html
    assert "pair them again" in html


EDGES = {
    "steps": "",
    "in_steps": "on",
    "lost_low": "-57",
    "back_low": "-54",
    "back_high": "29",
    "lost_high": "31",
}


def test_edges_alone_give_the_middle_and_the_hysteresis(owner_client, study):
    """Outwards (-57 + 31) / 2 = -13, inwards (-54 + 29) / 2 = -12.5; together -12.75, to a step -13."""
    html = make.html(centring(owner_client, study, **EDGES))
    assert "Set the offset to −13 steps" in html
    assert "±0.5 steps" in html
    assert "Outwards the middle is −13 steps, inwards −12.5 steps" in html
    assert "holds on 3 steps farther below and 2 steps farther above" in html
    assert "ppm" not in html.split("Set the offset")[1].split("</h2>")[0]
    html = make.html(centring(owner_client, study, **EDGES | {"hz_per_step": "61"}))
    assert "Set the offset to −13 steps (−0.79 kHz)" in html
    crossed = make.html(centring(owner_client, study, **EDGES | {"back_low": "40"}))
    assert "The edges cross" in crossed
    assert Centring.objects.first().edges == [-57.0, -54.0, 29.0, 31.0]


def test_steps_of_the_modules_own_need_no_size(owner_client, study):
    steps = "-3, 20, 0\n-2, 20, 18\n0, 20, 20\n4, 20, 19\n5, 20, 0"
    html = make.html(centring(owner_client, study, steps=steps, in_steps="on"))
    assert "Set the offset to 1 step" in html
    assert "held from</dt><dd>−2 steps … 4 steps" in html


def test_what_was_done_after_a_centring_is_kept_with_frames_and_name(owner_client, study):
    centring(owner_client, study)
    check = Centring.objects.get()
    follow = reverse("shelf:centring-follow", args=[study.pk, check.pk])

    def said(**typed):
        return make.html(owner_client.post(follow, typed, follow=True))

    html = said(key="middle", sent="20", heard="20")
    assert "20 of 20 frames heard" in html
    assert "2 still to be done" in html
    assert "At the middle count frames" in said(key="middle", sent="2", heard="20")
    assert "none of the things to do" in said(key="nothing")
    assert "whole numbers" in said(key="middle", sent="many")
    check.refresh_from_db()
    assert set(check.done) == {"middle"}


def test_stops_where_the_rig_fell_short_are_to_be_walked_again(owner_client, study):
    centring(owner_client, study)
    check = Centring.objects.get()
    short = FailingStop(stop="7", words="62 % lost at 620 m", url="/x/")
    (todo,) = [one for one in centring_result(check, [short]).todo if one.url]
    assert "Walk stop 7 again: 62 % lost" in todo.do
    follow = reverse("shelf:centring-follow", args=[study.pk, check.pk])
    owner_client.post(follow, {"key": todo.key})
    check.refresh_from_db()
    (again,) = [one for one in centring_result(check, [short]).todo if one.url]
    assert again.done.startswith("done 20")
    assert any("Walk stop 7 again." in one.do for one in centring_result(check).todo)


def test_an_edge_not_reached_is_kept_and_says_to_step_on(owner_client, study):
    html = make.html(centring(owner_client, study, steps="0, 20, 20\n10, 20, 19\n20, 20, 0"))
    assert "The below edge was not reached: step on until the link is lost." in html
    assert Centring.objects.count() == 1


def test_a_saturated_receiver_and_a_small_margin_are_pointed_out(owner_client, study):
    html = make.html(centring(owner_client, study, level_dbm="-12 dBm", drift_ppm="30"))
    assert "overdrives the receiver" in html
    assert "use up" in html


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"steps": ""}, "Give steps with their frames, or the four edges below."),
        ({"lost_low": "-57"}, "Give all four edges."),
        ({"steps": "0, 20"}, "write 3 values"),
        ({"steps": "0, 20, 21"}, "heard=21 must be from 0 to 20"),
        ({"steps": "0, x, 1"}, "“x” is no count"),
        ({"drift_ppm": "nan"}, "Enter a number"),
    ],
)
def test_a_wrong_centring_keeps_what_was_typed(owner_client, study, change, words):
    response = centring(owner_client, study, **change)
    assert response.status_code == 422
    assert words in make.html(response)
    assert "L8-11" in make.html(response)
    assert not Centring.objects.exists()


def close(client, study, unit, parallel, **changes):
    typed = {
        "rig": study.rigs.get().pk,
        "unit": unit,
        "checked_on": "2026-11-12",
        "distance_m": "3 m",
        "power_dbm": "0 dBm",
        "parallel_dbm": str(parallel),
    }
    return client.post(page_of(study, "close-ranges"), typed | changes, follow=True)


def test_free_space_judges_the_first_units(owner_client, study):
    """0 dBm, twice 2.15 dBi, 40.8 dB of free space (P.525): around -36.5 dBm."""
    html = make.html(close(owner_client, study, "L8-11", -38))
    assert "L8-11 passes" in html
    assert "free space at 3 m" in html
    assert "L8-40 is out of the window" in make.html(close(owner_client, study, "L8-40", -58))


def test_three_good_units_teach_the_window(owner_client, study):
    for unit, level in (("1", -44), ("2", -45), ("3", -43)):
        close(owner_client, study, unit, level, good="on")
    html = make.html(close(owner_client, study, "4", -50))
    assert "learned from 3 good units" in html
    found = dict(close_range_results(list(CloseRange.objects.all())))
    bad = CloseRange.objects.get(unit="4")
    assert not found[bad].passes
    assert found[bad].judged[0].off_db < 0


def test_the_fault_tree_walks_to_the_part_at_fault(owner_client, study):
    close(owner_client, study, "L8-40", -60)
    check = CloseRange.objects.get()
    answer = reverse("shelf:close-range-answer", args=[study.pk, check.pk])
    html = owner_client.post(answer, {"question": "antenna", "answer": "same"}, follow=True)
    assert "Swap the receiver" in make.html(html)
    html = owner_client.post(answer, {"question": "receiver", "answer": "came right"}, follow=True)
    assert "The answers point to the receiver." in make.html(html)
    html = owner_client.post(answer, {"question": "moon", "answer": "same"}, follow=True)
    assert "no question of the fault tree" in make.html(html)
    check.refresh_from_db()
    told = {key: what["answer"] for key, what in check.answers.items()}
    assert told == {"antenna": "same", "receiver": "came right"}


def test_the_swaps_keep_what_was_swapped_and_end_in_a_finding_on_the_unit(owner_client, study):
    module = save_part(study, Module(name="Dulse L8"))
    unit = save_part(study, Unit(module=module, serial="L8-40"))
    close(owner_client, study, "L8-40", -60)
    check = CloseRange.objects.get()
    answer = reverse("shelf:close-range-answer", args=[study.pk, check.pk])
    finding = reverse("shelf:close-range-finding", args=[study.pk, check.pk])
    early = make.html(owner_client.post(finding, follow=True))
    assert "point to nothing yet" in early
    said = {
        "question": "antenna",
        "answer": "same",
        "swapped": "whip for whip",
        "gave_dbm": "-59 dBm",
    }
    assert "whip for whip: −59.0 dBm" in make.html(owner_client.post(answer, said, follow=True))
    wrong = said | {"gave_dbm": "soon"}
    assert "soon" in make.html(owner_client.post(answer, wrong, follow=True))
    for question in ("receiver", "transmitter", "supply"):
        owner_client.post(answer, {"question": question, "answer": "same"})
    html = make.html(
        owner_client.post(answer, {"question": "driver", "answer": "came right"}, follow=True)
    )
    assert "The answers point to a motor driver." in html
    assert "Kept as a finding on unit L8-40" in make.html(owner_client.post(finding, follow=True))
    unit.refresh_from_db()
    assert unit.note == "close range 12 Nov 2026: The answers point to a motor driver."


def test_a_window_of_ones_own_judges_parallel_and_crossed_apart(owner_client, study):
    own = {"low_dbm": "-35", "high_dbm": "-8", "crossed_low_dbm": "-60", "crossed_high_dbm": "-40"}
    crossed = {"crossed_dbm": "-50", "crossed_distance_m": "1 m", "distance_m": "0.5 m"}
    html = make.html(close(owner_client, study, "1", -20, **own, **crossed))
    assert "1 passes" in html
    assert "parallel −20.0 dBm, window −35.0 … −8.0" in html
    assert "Crossed at 1 m: window one’s own" in html
    assert "Crossing the antennas costs" not in html  # not at one distance
    half = make.html(close(owner_client, study, "2", -20, low_dbm="-35"))
    assert "needs both its ends" in half
    turned = make.html(close(owner_client, study, "2", -20, low_dbm="-8", high_dbm="-35"))
    assert "the weaker first" in turned


def test_crossed_alone_is_judged_by_a_window_or_not_at_all(owner_client, study):
    html = make.html(close(owner_client, study, "1", "", crossed_dbm="-50"))
    assert "1 is not judged" in html
    assert "learn it from three good units" in html
    none = make.html(close(owner_client, study, "2", ""))
    assert "antennas parallel, crossed, or both" in none


def test_crossed_antennas_that_lose_little_are_odd(owner_client, study):
    html = make.html(close(owner_client, study, "1", -40, crossed_dbm="-43"))
    assert "Crossing the antennas costs 3.0 dB: linear antennas should show 10 dB" in html


LOG = "rig,stop,seq,heard,condition\n" + "".join(
    f"A,bench,{i},{int(i < heard)},{attenuation}\n"
    for attenuation, sent, heard in marsh.LADDER
    for i in range(sent)
)


def ladder(client, study, log, **changes):
    file = SimpleUploadedFile("bench.csv", log.encode())
    return make.post_ladder(client, study, "", **changes, file=file)


def test_a_ladder_is_run_from_a_frame_log(owner_client, study):
    html = make.html(ladder(owner_client, study, LOG))
    check = ConductedCheck.objects.get()
    assert check.steps == [[float(a), n, k] for a, n, k in marsh.LADDER]
    assert bytes(check.log) == LOG.encode()
    assert "From bench.csv" in html
    half = result_of(check).half_lost
    assert half.low < -122.6 < half.high


def test_typed_steps_are_added_to_those_of_a_log(owner_client, study):
    ladder(owner_client, study, LOG, steps="110, 60, 0")
    assert ConductedCheck.objects.get().steps[0] == [110.0, 60, 0]


def test_a_log_that_is_no_ladder_keeps_what_was_typed(owner_client, study):
    response = ladder(owner_client, study, LOG.replace(",101\n", ",loud\n"), unit="0042")
    html = make.html(response)
    assert response.status_code == 422
    assert "“loud” is no attenuation" in html
    assert "0042" in html


def bring(client, study, data, **changes):
    typed = {
        "rig": study.rigs.get().pk,
        "unit": "L8-11",
        "traced_on": "2026-11-12",
        "supply_v": "3.3 V",
        "period_s": "15 min",
    }
    file = {"file": SimpleUploadedFile("trace.csv", data)}
    return client.post(page_of(study, "traces"), typed | changes | file, follow=True)


def test_a_trace_gives_states_life_and_the_datasheets_sum(owner_client, study):
    module = save_part(
        study,
        Module(
            name="M",
            sleep_a=1.6e-6,
            standby_a=1.1e-3,
            receive_a=5.3e-3,
            transmit_currents=[[14, 38e-3]],
        ),
    )
    rig = study.rigs.get()
    rig.module_part = module
    rig.battery = save_part(study, Battery(name="AA", capacity_ah=2.4))
    save_rig(study, rig)
    html = make.html(bring(owner_client, study, marsh_trace().encode(), period_s="1 min"))
    for words in ("Transmit", "Receive window", "years on AA", "3 messages", "above the datasheet"):
        assert words in html
    kept = CurrentTrace.objects.get()
    charge = sum(seconds * amperes for seconds, amperes in marsh.MESSAGE[1:-1])
    assert reading_of(kept).charge_c == pytest.approx(charge, rel=0.01)
    back = owner_client.get(reverse("shelf:trace-file", args=[study.pk, kept.pk]))
    assert b"".join(back.streaming_content) == marsh_trace().encode()


def test_a_power_bank_that_would_switch_off_is_pointed_out(owner_client, study):
    rig = study.rigs.get()
    rig.battery = save_part(study, Battery(name="bank", capacity_ah=10, keep_on_a=0.05))
    save_rig(study, rig)
    html = make.html(bring(owner_client, study, marsh_trace().encode()))
    assert "The power bank switches off under 50 mA" in html


HEAD = b"time_ms,current_mA\n"


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (HEAD, "no sample under it"),
        (HEAD + b"0,nan\n", "no finite number"),
        (
            HEAD + b"".join(b"%d,%d\n" % (i, -5 if i == 30 else 5) for i in range(60)),
            "sample 31 is -5 mA, under zero",
        ),
        (HEAD + b"".join(b"%d,5\n" % i for i in range(60)), "stays at one level"),
        (b"time_ms,voltage_mV\n0,1\n", "shunt measures in ohms"),
    ],
)
def test_a_bad_trace_gives_a_sentence_and_loses_nothing(owner_client, study, data, words):
    response = bring(owner_client, study, data)
    html = make.html(response)
    assert response.status_code == 422
    assert words.lower() in html.lower()
    assert "L8-11" in html
    assert not CurrentTrace.objects.exists()


@pytest.mark.parametrize("name", ["centrings", "close-ranges", "traces"])
def test_pages_without_a_check_say_how_to_begin_and_strangers_get_404(client, study, name):
    client.force_login(make.owner(study))
    html = make.html(client.get(page_of(study, name)))
    assert "yet." in html
    client.force_login(make.user())
    assert client.get(page_of(study, name)).status_code == 404


def test_a_check_can_be_taken_off_by_editors_only(client, study):
    client.force_login(make.owner(study))
    close(client, study, "1", -40)
    check = CloseRange.objects.get()
    remove = reverse("shelf:check-remove", args=[study.pk, "close-ranges", check.pk])
    client.force_login(make.member(study))
    assert client.post(remove).status_code == 404
    client.force_login(make.owner(study))
    client.post(remove)
    assert not CloseRange.objects.exists()
    odd = reverse("shelf:check-remove", args=[study.pk, "spoons", 1])
    assert client.post(odd).status_code == 404


def test_a_rig_that_was_measured_is_not_removed_with_its_checks(owner_client, study):
    close(owner_client, study, "1", -40)
    centring(owner_client, study)
    page = reverse("shelf:rig-remove", args=[study.pk, study.rigs.get().pk])
    html = make.html(owner_client.post(page, follow=True))
    assert "measured on the bench (centring and close range), so it stays" in html
    assert CloseRange.objects.count() == 1


def test_what_is_kept_of_a_trace_is_plain_and_small(owner_client, study):
    bring(owner_client, study, marsh_trace().encode())
    kept = json.dumps(CurrentTrace.objects.get().reading)
    assert len(kept) < 60_000
    assert "NaN" not in kept


def sagging_trace(offset_a=0.0):
    """Three messages with the supply's voltage beside: 3.6 V at rest, 2 Ohm inside."""
    parts = ((0.5, 2e-6), (0.05, 40e-3), (0.03, 11e-3), (0.5, 2e-6)) * 3
    rows, t = ["time_s,current_A,supply_V"], 0.0
    for length, amperes in parts:
        for _ in range(round(length / 1e-3)):
            rows.append(f"{t:.4f},{amperes + offset_a:.7f},{3.6 - 20 * amperes:.4f}")
            t += 1e-3
    return "\n".join(rows).encode()


def test_a_supply_that_sags_under_the_cells_end_is_told(owner_client, study):
    rig = study.rigs.get()
    rig.battery = save_part(
        study, Battery(name="coin", capacity_ah=0.2, voltage_v=3.0, cutoff_v=3.0)
    )
    save_rig(study, rig)
    html = make.html(bring(owner_client, study, sagging_trace()))
    assert "sags from 3.60 to 2.80 V while sending, 20.0 Ω inside" in html
    assert "under the 3.00 V at which coin counts as empty" in html


def test_what_the_meter_reads_with_nothing_connected_is_taken_off(owner_client, study):
    bring(owner_client, study, sagging_trace(5e-6), offset_a="5 µA")
    sleep = reading_of(CurrentTrace.objects.get()).states[0]
    assert sleep.current_a == pytest.approx(2e-6, rel=1e-3)


def test_levels_are_named_and_moved_by_hand_and_put_back(owner_client, study):
    bring(owner_client, study, sagging_trace())
    check = CurrentTrace.objects.get()
    assert reading_of(check).names == ("sleep", "receive window", "transmit")
    page = reverse("shelf:trace-levels", args=[study.pk, check.pk])
    said = {
        "name-0": "sleep",
        "edge-0": "100 µA",
        "name-1": "wake",
        "edge-1": "20 mA",
        "name-2": "transmit",
    }
    typed = {f"t{check.pk}-{key}": value for key, value in said.items()}
    html = make.html(owner_client.post(page, typed, follow=True))
    assert "As it was found" in html
    check.refresh_from_db()
    assert reading_of(check).names == ("sleep", "wake", "transmit")
    crossed = typed | {f"t{check.pk}-edge-1": "10 µA"}
    assert "must ascend" in make.html(owner_client.post(page, crossed, follow=True))
    bad = typed | {f"t{check.pk}-edge-1": "much"}
    assert "much" in make.html(owner_client.post(page, bad, follow=True))
    owner_client.post(page, {"as-found": "1"})
    check.refresh_from_db()
    assert reading_of(check).names == ("sleep", "receive window", "transmit")


def test_a_life_whose_limits_look_alike_says_how_near_they_are(owner_client, study):
    rig = study.rigs.get()
    rig.battery = save_part(study, Battery(name="D cell", capacity_ah=2.0, voltage_v=3.6))
    save_rig(study, rig)
    html = make.html(bring(owner_client, study, sagging_trace(), period_s="20 s"))
    assert "95 % within 0.1 %" in html


def test_stepping_there_and_back_tells_both_ways_apart(owner_client, study):
    """Lost at 112 to 114 dB going down, found again 4 dB nearer going up."""
    down = [(100, 50), (108, 50), (110, 48), (112, 30), (114, 6), (118, 0)]
    up = [(114, 0), (112, 0), (110, 5), (108, 28), (106, 46), (100, 50)]
    rows = "\n".join(f"{a}, 50, {heard}" for a, heard in [*down, *up])
    html = make.html(make.post_ladder(owner_client, study, rows))
    assert "It holds on to a signal it would not find again" in html
    one_way = "\n".join(f"{a}, 50, {heard}" for a, heard in down)
    html = make.html(make.post_ladder(owner_client, study, one_way))
    newest = html.split("older")[0]
    assert "as it rose" not in newest
