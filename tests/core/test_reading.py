"""The reading of whole walks: nulls, notes and the answer."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from inchmark.core.interval import Estimate
from inchmark.core.reading.analysis import Walked
from inchmark.core.reading.answer import answer_of, verdict
from inchmark.core.reading.measured import MeasuredVisit, RigFacts, RigPrior, SiteFacts, StopFacts
from inchmark.core.reading.reading import Asked, read_visits
from inchmark.core.reading.rules import RangeRules
from inchmark.core.reception.visit import (
    HandCount,
    VisitFrames,
    VisitKey,
    counted_visit,
    silent_visit,
    summarise_visit,
)
from inchmark.core.simulation import SimulatedRig, SimulatedSite, SimulatedWalk
from tests import strategies as our

SENSITIVE = RigPrior(module_type="one", sensitivity_dbm=-112)


def visit_of(rows, distance, **options):
    rows = list(rows)
    first = rows[0]

    def column(name):
        return np.array([np.nan if (x := getattr(r, name)) is None else x for r in rows])

    frames = VisitFrames(
        seq=np.array([r.seq for r in rows]),
        heard=np.array([r.heard for r in rows]),
        rssi_dbm=column("rssi_dbm"),
        snr_db=column("snr_db"),
        noise_dbm=column("noise_dbm"),
        time_s=column("time_s"),
    )
    key = VisitKey(rig=first.rig, stop=first.stop, condition=first.condition)
    return MeasuredVisit(key=key, distance_m=distance, summary=summarise_visit(frames, **options))


def read(visits, facts=None, stops=None, *, noise_dbm=None, site=None, **options):
    walked = Walked(
        visits=tuple(visits),
        facts=facts or {},
        stops=stops or {},
        site=site or SiteFacts(),
        reference_noise_dbm=noise_dbm,
    )
    return read_visits(walked, **options)


def walk(distances, *, frames=60, rigs=None, seed=3, conditions=("",)):
    rigs = rigs or {
        "A": SimulatedRig(level_at_1m_dbm=-24, threshold_dbm=-111),
        "B": SimulatedRig(level_at_1m_dbm=-18, threshold_dbm=-111),
    }
    simulated = SimulatedWalk(SimulatedSite(), rigs, np.random.default_rng(seed))
    return [
        visit_of(simulated.visit(rig, str(i + 1), d, frames, condition=c), d)
        for i, d in enumerate(distances)
        for rig in rigs
        for c in conditions
    ]


OUT = (30, 70, 150, 300, 500, 800)


@pytest.fixture(scope="module")
def full():
    facts = {r: RigFacts(prior=SENSITIVE) for r in "AB"}
    return read(walk(OUT), facts, asked=Asked(needed_m=150, curves=True))


def codes(reading):
    return [note.code for note in reading.notes]


def test_a_full_walk_answers_everything(full):
    assert [one.rig for one in full.rigs] == ["A", "B"]
    for rig in full.rigs:
        assert rig.sent == 360
        assert rig.loss_range_m.low < rig.loss_range_m.estimate < rig.loss_range_m.high
        assert rig.needed.distance_m == 150
        assert rig.needed.delivery.estimate <= 1
    assert len(full.visits) == 12
    first, *_, last = full.curves[0].points
    assert first.level_dbm.estimate > last.level_dbm.estimate


def test_the_difference_holds_the_six_decibels_that_were_put_in(full):
    (row,) = full.differences
    assert row.margin_db.low < 6 < row.margin_db.high


def test_the_same_log_gives_the_same_figures():
    facts = {r: RigFacts(prior=SENSITIVE) for r in "AB"}
    visits = walk(OUT[:4], frames=30)
    assert read(visits, facts) == read(visits, facts)


def test_a_visit_carries_the_number_its_owner_gave_it():
    visits = [replace(v, ref=100 + i) for i, v in enumerate(walk(OUT[:4], frames=30))]
    reading = read(visits)
    assert {one.ref for one in reading.visits} == set(range(100, 108))
    assert all(note.ref for note in reading.notes if note.code == "survivors_strong")


def test_survivors_are_named_and_stops_shared(full):
    found = {note.code: note for note in full.notes}
    assert "survivors_strong" in found
    assert "too high" in found["survivors_strong"].text
    assert found["paired"].kind == "good"


def test_a_rig_walked_on_a_day_of_its_own_is_named():
    visits = [
        replace(v, key=replace(v.key, walk="2" if v.key.rig == "B" else "1")) for v in walk(OUT[:4])
    ]
    facts = {r: RigFacts(prior=SENSITIVE) for r in "AB"}
    found = [n for n in read(visits, facts).notes if n.code == "confounded_walk"]
    assert [note.rig for note in found] == ["A", "B"]
    assert "in walk 2 only" in found[1].text
    assert "confounded_walk" not in codes(read(walk(OUT[:4]), facts))


def test_rigs_that_change_two_things_are_named():
    facts = {
        "A": RigFacts(prior=SENSITIVE, varied=(("antenna", "coil"), ("transmit power", "14"))),
        "B": RigFacts(prior=SENSITIVE, varied=(("antenna", "whip"), ("transmit power", "10"))),
    }
    note = next(n for n in read(walk(OUT), facts).notes if n.code == "one_change")
    assert note.title == "B changed 2 things"
    assert "antenna and transmit power" in note.text


def test_nothing_heard_is_a_note_and_a_result():
    visits = walk(OUT[:4])
    visits.append(
        MeasuredVisit(key=VisitKey(rig="A", stop="9"), distance_m=2000, summary=silent_visit(40))
    )
    reading = read(visits, {r: RigFacts(prior=SENSITIVE) for r in "AB"})
    note = next(n for n in reading.notes if n.code == "nothing_heard")
    assert "at 2 km 40 frames went out" in note.text
    figures = next(v for v in reading.visits if v.stop == "9")
    assert figures.loss.estimate == 1
    assert figures.heard_level_dbm is None
    assert figures.level_dbm.estimate < -105


def test_stops_no_frame_tells_of_are_named():
    visits = [v for v in walk(OUT[:4]) if (v.key.rig, v.key.stop) != ("B", "4")]
    stops = {v.key.stop: StopFacts() for v in visits} | {"9": StopFacts(distance_m=2000)}
    reading = read(visits, {r: RigFacts(prior=SENSITIVE) for r in "AB"}, stops=stops)
    note = next(n for n in reading.notes if n.code == "nothing_told")
    assert "No frame names stop 9 (2 km) and B at 4." in note.text
    complete = read(walk(OUT[:4]), {r: RigFacts(prior=SENSITIVE) for r in "AB"})
    assert all(n.code != "nothing_told" for n in complete.notes)


def test_without_levels_there_is_no_range_but_counts_stand():
    rigs = {"A": SimulatedRig(level_at_1m_dbm=-24, threshold_dbm=-111)}
    visits = []
    for v in walk(OUT, rigs=rigs):
        frames = VisitFrames(
            seq=np.arange(v.summary.sent),
            heard=np.arange(v.summary.sent) < v.summary.heard,
            **{
                n: np.full(v.summary.sent, np.nan)
                for n in ("rssi_dbm", "snr_db", "noise_dbm", "time_s")
            },
        )
        visits.append(
            MeasuredVisit(key=v.key, distance_m=v.distance_m, summary=summarise_visit(frames))
        )
    reading = read(visits)
    rig = reading.of_rig("A")
    assert (reading.site.exponent, rig.loss_range_m) == (None, None)
    assert rig.last_heard_m is not None
    assert "counts_only" in codes(reading)
    assert "cannot carry a range yet" in answer_of(reading).sentence


def test_one_distance_says_nothing_about_distance():
    reading = read(walk((50,)))
    assert reading.site.exponent is None
    assert "one distance" in reading.why_no_fit


def test_two_stops_are_too_few_for_a_slope():
    reading = read(walk((50, 400)), {"A": RigFacts(prior=SENSITIVE)})
    assert reading.site.exponent is None
    assert reading.of_rig("A").loss_range_m is None


def test_four_stops_give_a_slope_but_no_scatter_of_places():
    reading = read(walk((30, 90, 250, 600)), {r: RigFacts(prior=SENSITIVE) for r in "AB"})
    assert reading.site.exponent is not None
    assert reading.site.shadowing_db is None
    assert "few_stops" in codes(reading)


def test_without_an_edge_and_without_a_datasheet_there_is_no_range():
    strong = {"A": SimulatedRig(level_at_1m_dbm=10, threshold_dbm=-111)}
    reading = read(walk(OUT, rigs=strong))
    rig = reading.of_rig("A")
    assert (rig.threshold_dbm, rig.loss_range_m) == (None, None)
    assert "no_edge" in codes(reading)


def test_an_edge_between_two_stops_gives_a_range_and_says_where_to_stand():
    rigs = {"A": SimulatedRig(level_at_1m_dbm=-24, threshold_dbm=-111)}
    near = walk((30, 60, 120, 200), rigs=rigs)
    far = [
        MeasuredVisit(key=VisitKey(rig="A", stop=s), distance_m=d, summary=silent_visit(60))
        for s, d in (("8", 2000.0), ("9", 3000.0))
    ]
    reading = read(near + far)
    rig = reading.of_rig("A")
    assert 150 < rig.loss_range_m.estimate < 2000
    assert not rig.edge_reached
    note = next(n for n in reading.notes if n.code == "no_edge")
    assert "the edge lies between them" in note.text


def test_without_an_edge_the_datasheet_speaks_and_extrapolation_is_said():
    strong = {"A": SimulatedRig(level_at_1m_dbm=10, threshold_dbm=-111)}
    reading = read(walk(OUT, rigs=strong), {"A": RigFacts(prior=SENSITIVE)})
    assert reading.of_rig("A").extrapolated
    assert {"no_edge", "extrapolated"} <= set(codes(reading))


def test_a_stop_close_to_the_next_is_a_narrow_spread():
    reading = read(walk((100, 130, 160, 200, 260)))
    assert "narrow_spread" in codes(reading)


def test_few_frames_are_named_with_what_the_loss_could_be():
    reading = read(walk(OUT, frames=12))
    note = next(n for n in reading.notes if n.code == "few_frames")
    assert "sent 12" in note.text
    assert "29 independent frames" in note.text


@pytest.mark.parametrize(
    ("facts", "words"),
    [
        (StopFacts(method="road"), "measured by road"),
        (StopFacts(plus_minus_m=120), "±120 m is"),
        (StopFacts(method="tape", geodesic_m=560), "the coordinates say 560 m"),
    ],
)
def test_a_doubtful_distance_is_named_in_decibels(facts, words):
    reading = read(walk(OUT), stops={"5": facts})
    note = next(n for n in reading.notes if n.code == "distance_doubtful")
    assert (note.stop, words in note.text) == ("5", True)


def test_a_restarted_counter_is_named():
    rows = list(walk_rows())
    reading = read([*walk(OUT[:3]), visit_of(rows, 500)])
    note = next(n for n in reading.notes if n.code == "counter_reset")
    assert note.subject == "A/7"


def walk_rows():
    rigs = {"A": SimulatedRig(level_at_1m_dbm=-10, threshold_dbm=-111)}
    simulated = SimulatedWalk(SimulatedSite(), rigs, np.random.default_rng(1))
    for frame in simulated.visit("A", "7", 500, 40):
        seq = frame.seq + 500 if frame.seq < 20 else frame.seq - 20
        yield type(frame)(**{**{f: getattr(frame, f) for f in frame.__slots__}, "seq": seq})


def test_clipping_near_stops_is_found():
    rigs = {"A": SimulatedRig(level_at_1m_dbm=-24, threshold_dbm=-111)}
    visits = []
    for v in walk(OUT, rigs=rigs):
        pairs = tuple(sorted({min(a, -70.0): 0 for a, _ in v.summary.level_counts}))
        counts = {a: sum(n for b, n in v.summary.level_counts if min(b, -70.0) == a) for a in pairs}
        summary = type(v.summary)(
            **{
                **{f: getattr(v.summary, f) for f in v.summary.__slots__},
                "level_counts": tuple(counts.items()),
                "rssi_counts": tuple(counts.items()),
            }
        )
        visits.append(MeasuredVisit(key=v.key, distance_m=v.distance_m, summary=summary))
    reading = read(visits)
    assert reading.site.clip_dbm == -70
    assert "clipped" in codes(reading)


def test_a_rig_always_carried_its_own_way_is_confounded():
    one = walk(OUT, rigs={"A": SimulatedRig(level_at_1m_dbm=-24, threshold_dbm=-111)})
    two = walk(
        OUT,
        rigs={"B": SimulatedRig(level_at_1m_dbm=-24, threshold_dbm=-111)},
        conditions=("pocket",),
    )
    assert "confounded_condition" in codes(read(one + two))


def test_rigs_at_other_stops_are_not_paired():
    visits = walk(OUT)
    assert "unpaired" in codes(read(visits[:-1]))


def test_the_answer_names_the_winner_and_the_needed_distance(full):
    answer = answer_of(full)
    assert answer.sentence.startswith("B reaches 1.")
    assert "× as far as A: +" in answer.sentence
    assert answer.needed.startswith("At the needed 150 m: ")
    assert answer.rule.startswith("Range here = farthest distance where 9 of 10 places")


def test_a_difference_whose_limits_hold_zero_is_no_win(full):
    rigs = tuple(
        replace(rig, loss_range_m=Estimate(metres, 200, 700))
        for rig, metres in zip(full.rigs, (400, 430), strict=True)
    )
    rows = (replace(full.differences[0], margin_db=Estimate(0.9, -1.2, 3.0)),)
    answer = answer_of(replace(full, rigs=rigs, differences=rows))
    assert answer.sentence == "B and A cannot be told apart yet: +0.9 dB"


def test_a_rig_whose_edge_was_not_reached_is_named_beside_the_answer():
    rigs = {
        "A": SimulatedRig(level_at_1m_dbm=10, threshold_dbm=-111),
        "B": SimulatedRig(level_at_1m_dbm=-24, threshold_dbm=-111),
    }
    answer = answer_of(read(walk(OUT, rigs=rigs), asked=Asked(needed_m=300)))
    assert answer.sentence.startswith("B reaches")
    assert "No range yet for A: heard as far as 800 m" in answer.needed


@pytest.mark.parametrize(
    ("low", "high", "word"),
    [(800, 1000, "holds"), (300, 700, "short"), (600, 900, "open")],
)
def test_the_verdict_at_a_needed_distance(low, high, word):
    assert verdict(Estimate(0.5 * (low + high), low, high), 740) == word
    assert verdict(None, 740) == "unknown"


def test_an_empty_log_has_an_answer_too():
    assert answer_of(read([])).sentence == "No frames yet."


def test_a_rule_outside_reason_is_refused():
    with pytest.raises(ValueError, match="places"):
        RangeRules(places=1.0)
    assert "95 of 100" in RangeRules(places=0.95).words


def test_stops_shared_on_days_of_their_own_are_said_to_be_that():
    visits = [
        replace(v, key=replace(v.key, walk="2" if v.key.rig == "B" else "1")) for v in walk(OUT[:4])
    ]
    facts = {r: RigFacts(prior=SENSITIVE) for r in "AB"}
    found = codes(read(visits, facts))
    assert "paired" not in found
    assert "same_stops_other_walks" in found


def test_nothing_is_said_to_be_paired_where_no_difference_was_computed():
    unknown = read(walk(OUT[:4]))  # no threshold known, no module of one type
    compared = [one for one in unknown.differences if one.margin_db is not None]
    assert not compared
    assert "paired" not in codes(unknown)


def counted(*rows):
    """Visits of rig A from counts: distance [m], sent, heard, RSSI [dBm]."""
    return [
        MeasuredVisit(
            key=VisitKey(rig="A", stop=f"{i}"),
            distance_m=d,
            summary=counted_visit([HandCount(sent=n, heard=k, rssi_dbm=rssi if k else None)]),
        )
        for i, (d, n, k, rssi) in enumerate(rows)
    ]


def test_a_range_of_centimetres_is_not_shown_and_said_to_be_none():
    visits = counted((50, 400, 2, -111), (100, 400, 2, -111), (200, 400, 1, -111))
    reading = read(visits, {"A": RigFacts(prior=SENSITIVE)})
    assert reading.rigs[0].loss_range_m is None
    assert "range_implausible" in codes(reading)


@pytest.mark.parametrize(
    "rows",
    [
        ((50, 40_000, 20, -60), (100, 4000, 20, -66), (200, 4000, 5, -72), (400, 4000, 5, -78)),
        ((0.5, 1_000_000, 1, 30), (100_000, 4000, 4000, -66)),
        ((50, 1_000_000, 999_999, -130), (60, 1_000_000, 1, -130)),
    ],
)
def test_counts_and_levels_that_contradict_each_other_are_read_or_said(rows):
    # an unbounded search for the spreads ran away here and ended in a singular matrix
    reading = read(counted(*rows), {"A": RigFacts(prior=SENSITIVE)})
    assert [one.sent for one in reading.visits] == [n for _, n, _, _ in rows]
    assert {note.code for note in reading.notes} & {"no_fit", "no_edge"}


@settings(max_examples=6)
@given(
    st.lists(st.tuples(our.distances_m, our.counts(), st.floats(-140, -20)), min_size=2, max_size=5)
)
def test_any_counts_at_all_give_a_reading(rows):
    visits = counted(*((d, n, k, rssi) for d, (k, n), rssi in rows))
    reading = read(visits, {"A": RigFacts(prior=SENSITIVE)})
    assert len(reading.visits) == len(rows)
