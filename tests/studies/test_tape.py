"""The tape: everything on it, readable from 0.1 m to 200 km, at a desk and on a phone."""

import itertools

import pytest
from django.template.loader import render_to_string

from inchmark.studies.tape.layout import NARROW_PX, WIDE_PX, Tape, tape_of
from inchmark.studies.tape.marks import RangeMark, StopMark
from inchmark.studies.tape.scale import LETTER, Scale
from tests import make

WIDTHS = (NARROW_PX, WIDE_PX, 700.0)


def stops_at(*metres):
    return [
        StopMark(label=str(i), name="", distance_m=at, url=f"#{i}")
        for i, at in enumerate(sorted(metres), start=1)
    ]


def mark(letter, middle, name="quarter wave", **how):
    return RangeMark(
        letter=letter, name=name, url="#", low_m=middle * 0.8, middle_m=middle, high_m=middle * 1.3,
        **how,
    )  # fmt: skip


def laid_tape(stops=(), ranges=(), needed=None, current=""):
    shown = [one.distance_m for one in stops]
    shown += [x for one in ranges for x in (one.low_m, one.high_m) if x]
    return Tape(
        stops=list(stops), ranges=list(ranges), needed_m=needed, next=None, current_stop=current,
        scale=Scale.over(shown + ([needed] if needed else [])),
    )  # fmt: skip


def spans(layout, width):
    """Return from where to where each label goes [px]."""
    found = []
    for tick in layout.ticks:
        if tick.label:
            at = tick.x / 100 * width + tick.label_x
            long = LETTER * len(tick.label)
            found.append((at - long, at) if tick.before else (at, at + long))
    return found


@pytest.mark.django_db
def test_the_tape_runs_from_near_to_far_and_holds_everything(study):
    study.needed_m = 740.0
    layout = tape_of(study, current_stop="2").wide
    xs = [one.x for one in layout.crowds]
    assert xs == sorted(xs)
    assert all(0 < x < 100 for x in xs)
    assert [one.stops[0].label for one in layout.crowds if one.current] == ["2"]
    assert layout.crowds[-1].x < layout.flag.x
    assert "100 m" in [tick.label for tick in layout.ticks]


@pytest.mark.django_db
def test_before_a_walk_ranges_on_the_tape_are_predicted(study):
    (found,) = tape_of(study).ranges
    assert not found.measured
    assert found.low_m < found.middle_m < found.high_m
    assert "predicted" in found.figure


@pytest.mark.django_db
def test_an_empty_study_has_a_tape_too():
    tape = tape_of(make.study())
    assert (tape.stops, tape.ranges, tape.wide.flag) == ([], [], None)
    assert tape.wide.ticks


def test_equal_factors_lie_equally_far_apart_on_the_tape():
    one, two, three = (one.x for one in laid_tape(stops_at(50, 100, 200)).wide.crowds)
    assert two - one == pytest.approx(three - two, abs=0.01)


@pytest.mark.parametrize("width", WIDTHS)
@pytest.mark.parametrize("far", [2.0, 90.0, 5_570.0, 200_000.0])
def test_labels_keep_apart_and_none_is_cut(width, far):
    tape = laid_tape(stops_at(0.1, 1.0, far))
    found = spans(tape.laid(width), width)
    assert len(found) >= 3
    assert all(low >= 0 and high <= width for low, high in found)
    assert all(a[1] < b[0] for a, b in itertools.pairwise(found))


@pytest.mark.parametrize("width", WIDTHS)
def test_forty_stops_stand_in_crowds_that_count_them_and_do_not_cover_each_other(width):
    tape = laid_tape(stops_at(*(100 * 1.04**i for i in range(40))), current="17")
    crowds = tape.laid(width).crowds
    assert sum(len(one.stops) for one in crowds) == 40
    edges = [(one.x / 100 * width - one.half, one.x / 100 * width + one.half) for one in crowds]
    assert all(a[1] <= b[0] for a, b in itertools.pairwise(edges))
    assert [one.current for one in crowds].count(True) == 1
    crowd = next(one for one in crowds if len(one.stops) > 1)
    assert crowd.short == f"×{len(crowd.stops)}"
    assert crowd.words.startswith(f"{len(crowd.stops)} stops from ")


def test_names_stand_in_a_column_while_every_line_keeps_clear_of_them():
    rows = laid_tape(ranges=[mark("A", 400), mark("B", 900)], needed=740).wide.rows
    assert not any(one.stacked for one in rows)
    assert rows[1].top - rows[0].top == 15


@pytest.mark.parametrize("width", WIDTHS)
@pytest.mark.parametrize("needed", [None, 0.11, 0.9, 30.0])
def test_no_bracket_and_no_needed_line_goes_through_a_name(width, needed):
    near = [mark("A", 0.082, "a coil on the casing"), mark("B", 40.0, "an antenna far away")]
    layout = laid_tape(ranges=near, needed=needed).laid(width)
    for row in layout.rows:
        letters = 2 + len(row.name) + (1 + len(row.mark.figure) if row.stacked else 0)
        start = row.name_x / 100 * width
        end = start + 12 + 6.2 * letters
        assert end <= width
        assert layout.flag is None or not start < layout.flag.x / 100 * width < end
        assert row.stacked or row.x_low / 100 * width > end
    tops = [one.top for one in layout.rows]
    assert tops == sorted(tops)
    assert layout.height > tops[-1]


def test_a_long_name_on_a_phone_is_shortened_before_its_figure_is():
    long = mark("A", 400.0, "a name that somebody typed with a great deal of care", measured=False)
    html = render_to_string("studies/_tape.html", {"tape": laid_tape(ranges=[long], needed=500.0)})
    assert "a great deal of care, " not in html
    assert html.count("400 m predicted, 320 m to 520 m") == 4  # for readers and as a title, twice
    assert "…" in html
    assert "400 m predicted</tspan>" in html


def test_a_tried_range_shows_where_it_was():
    (row,) = laid_tape(ranges=[mark("A", 600.0, was_m=300.0, measured=False)]).wide.rows
    assert row.was_x < row.x_low
    assert row.mark.figure == "600 m what if"
    assert not row.figure_before


def test_a_rig_without_a_range_says_so():
    none = RangeMark(letter="A", name="stub", url="#")
    (row,) = laid_tape(ranges=[none]).narrow.rows
    assert row.x == 0.0
    html = render_to_string("studies/_tape.html", {"tape": laid_tape(ranges=[none])})
    assert "no range" in html
    assert "range-bar" not in html
