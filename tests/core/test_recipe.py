"""Lines taken apart, recipes proposed with their reasons, and what lines then tell."""

from datetime import UTC, date, datetime, timedelta, timezone

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.core.recipe import nmea
from inchmark.core.recipe.clock import Clock, Kind, date_in, kind_of, zone_of
from inchmark.core.recipe.names import Act, Meaning, act_of, meaning_of
from inchmark.core.recipe.numbers import Written
from inchmark.core.recipe.payload import counter_in, read_counter
from inchmark.core.recipe.pieces import expanded, taken_apart
from inchmark.core.recipe.propose import Told as Said
from inchmark.core.recipe.propose import propose, sample_of
from inchmark.core.recipe.reader import Aside, Clocking, Damaged, Fix, Reader, Standing, Told
from inchmark.core.recipe.text import plain
from tests.dialects import DIALECTS, gateways, walk

DAY = date(2026, 11, 15)


def text_of(name):
    written = DIALECTS[name].write(walk())
    if isinstance(written, bytes):
        return written.decode("utf-16" if name == "UTF-16" else "cp1252", "replace")
    return written


def events_of(lines, said=None, **known):
    proposal = propose(lines, said)
    reader = Reader(proposal.recipe, Clocking(**{"zone": UTC, "day": DAY} | known))
    events = [event for i, line in enumerate(lines, 1) for event in reader.read(i, line)]
    return proposal, [*events, *reader.end()]


def told_in(lines, **known):
    return [event for event in events_of(lines, **known)[1] if isinstance(event, Told)]


def meanings(lines, said=None):
    return {use.name: use.meaning for use in propose(lines, said).recipe.uses}


@pytest.mark.parametrize("name", DIALECTS)
def test_every_dialect_gives_every_frame_heard_with_its_level(name):
    lines = text_of(name).splitlines()
    _, events = events_of(lines, Said(percent=(-130.0, -50.0)))
    told = [event for event in events if isinstance(event, Told) and event.act is Act.HEARD]
    told = [event for event in told if Meaning.SEQ in event.values]
    heard = [one for one in walk() if one.heard]
    assert [event.values[Meaning.SEQ] for event in told] == [one.seq for one in heard]
    for event, one in zip(told, heard, strict=True):
        assert event.values[Meaning.RSSI] == pytest.approx(one.rssi, abs=DIALECTS[name].rssi_within)


@pytest.mark.parametrize("name", DIALECTS)
def test_a_proposal_gives_a_reason_for_each_part_and_asks_nothing_it_knows(name):
    proposal = propose(text_of(name).splitlines(), Said(percent=(-130.0, -50.0)))
    assert all(use.reason for use in proposal.recipe.uses)
    assert proposal.questions == ()
    assert proposal.frames > 0


@pytest.mark.parametrize("name", DIALECTS)
def test_lines_read_by_their_shape_are_read_as_if_alone(name):
    lines = [plain(line) for line in text_of(name).splitlines()]
    recipe = propose(lines).recipe
    reader = Reader(recipe, Clocking(zone=UTC, day=DAY))
    names = {use.name for use in recipe.uses}
    for line in lines:
        by_shape = reader.shapes.taken(line)
        alone = expanded(taken_apart(line, recipe.table(), names_first=recipe.names_first))
        for one, other in zip(by_shape, alone, strict=True):
            assert [p for p in one.parts if p.name in names] == [
                p for p in other.parts if p.name in names
            ]
            assert (one.words, one.stamp) == (other.words, other.stamp)


@given(st.lists(st.text(max_size=200), max_size=40))
def test_any_text_is_read_without_a_fault_and_every_line_is_told_of(lines):
    lines = [line.replace("\n", " ") for line in lines]
    proposal = propose(lines)
    reader = Reader(proposal.recipe, Clocking(zone=UTC, day=DAY))
    for i, line in enumerate(lines, 1):
        for event in reader.read(i, line):
            assert isinstance(event, Told | Damaged | Aside | Fix | Standing)
    list(reader.end())


_NOISE = st.text(st.sampled_from('0123456789abcxRSI -+.,:;=#"{}[]()\t\x1b[m$*/%'), max_size=120)


@given(st.lists(_NOISE, min_size=5, max_size=30))
def test_lines_like_a_console_gone_wrong_are_read_without_a_fault(lines):
    events_of([*lines, *(f"rx seq={i} rssi=-{80 + i}" for i in range(8)), *lines])


def test_colours_and_control_bytes_are_taken_off():
    assert plain("\x1b[0;32mrx\x1b[0m \u2212\x0787\r") == "rx -87"
    assert plain("\x1b]0;title\x07ok") == "ok"


@pytest.mark.parametrize(
    ("line", "parts"),
    [
        ("rx seq=12 rssi=-87dBm", {"seq": "12", "rssi": "-87"}),
        ("Received packet 12 with RSSI -87 dBm", {"packet": "12", "rssi": "-87"}),
        ("Received packet 'hello 12' with RSSI -87", {"packet": "hello 12", "rssi": "-87"}),
        ("pkt#12 src=node-7 lvl=-87,5", {"#": "12", "src": "node-7", "lvl": "-87,5"}),
        ("RX,12,-87,7.5", {"RX/4[2]": "12", "RX/4[3]": "-87", "RX/4[4]": "7.5"}),
        ('{"a":{"rssi":-80},"ok":true}', {"a.rssi": "-80", "ok": "true"}),
        ("Stop: sea wall", {"stop": "sea wall"}),
        ("voltage= 3.3 rssi=-80", {"voltage": "3.3", "rssi": "-80"}),
        ("node:A,cnt:12,rssi:-80", {"node": "A", "cnt": "12", "rssi": "-80"}),
    ],
)
def test_a_line_is_taken_apart_into_named_parts(line, parts):
    found = {part.name: part.text for part in taken_apart(line).parts}
    assert found == parts


@pytest.mark.parametrize(
    ("line", "stamp", "first"),
    [
        ("[14:02:33.120] seq=1", "14:02:33.120", "seq"),
        ("2026-11-15T14:02:33Z seq=1", "2026-11-15T14:02:33Z", "seq"),
        ("15.11.2026 14:02:33 seq=1", "15.11.2026 14:02:33", "seq"),
        ("I (12345) radio: seq=1", "+12345", "radio"),
        ("14:02:33 -> seq=1", "14:02:33", "seq"),
        ("INFO:radio:14:02:33.5: seq=1", "14:02:33.5", "radio"),
    ],
)
def test_a_line_begins_with_its_moment(line, stamp, first):
    pieces = taken_apart(line)
    assert pieces.stamp.strip() == stamp
    assert any(part.name == "seq" and part.text == "1" for part in pieces.parts) or first == "radio"


@pytest.mark.parametrize(
    ("name", "meaning"),
    [
        ("RSSI (dBm)", Meaning.RSSI),
        ("rssi_dbm", Meaning.RSSI),
        ("rx[].rssi", Meaning.RSSI),
        ("Signal strength", Meaning.RSSI),
        ("noise_floor_dbm", Meaning.NOISE),
        ("S/N", Meaning.SNR),
        ("Packet #", Meaning.SEQ),
        ("fCnt", Meaning.SEQ),
        ("node-2", None),
        ("colour", None),
    ],
)
def test_a_name_that_looks_like_one_of_ours_is_known(name, meaning):
    assert meaning_of(name) is meaning


@pytest.mark.parametrize(
    ("words", "act"),
    [
        ("rx ok", Act.HEARD),
        ("tx done", Act.SENT),
        ("crc error", Act.DAMAGED),
        ("no reply", Act.LOST),
        ("rx pong", Act.REPLY),
        ("miss", Act.LOST),
    ],
)
def test_words_tell_what_a_line_is_about(words, act):
    assert act_of(frozenset(words.split())) is act


def test_figures_are_read_as_they_are_written():
    assert Written().value("-87,5") == -87.5
    assert Written().value("n/a") is None
    assert Written(hex=True).value("00FE") == 254
    assert Written().value("0x10") == 16
    assert Written(factor=-1.0).value("87") == -87
    assert Written(offset=-157.0, factor=0.5).value("100") == -107
    assert Written(inside=True).value("hello 12") == 12
    for written, text in (
        (Written(), "8x"),
        (Written(hex=True), "zz"),
        (Written(inside=True), "no"),
    ):
        with pytest.raises(ValueError, match=text):
            written.value(text)


def test_times_in_every_writing_are_the_same_moment():
    moment = datetime(2026, 11, 15, 13, 2, 3, tzinfo=UTC).timestamp()
    hour = timezone(timedelta(hours=1))
    for text, known in (
        ("2026-11-15T13:02:03Z", {}),
        ("2026-11-15 14:02:03+01:00", {}),
        ("15.11.2026 14:02:03", {"zone": hour}),
        ("11/15/2026 14:02:03", {"zone": hour, "month_first": True}),
        ("20261115T130203", {}),
        ("14:02:03", {"zone": hour, "day": DAY}),
        (f"{moment:.0f}", {}),
        (f"{moment * 1000:.0f}", {}),
        ("+3000", {"anchor_s": moment - 3}),
        ("+3.0s", {"anchor_s": moment - 3}),
        ("+3000000us", {"anchor_s": moment - 3}),
    ):
        kind = kind_of(text)
        assert kind is not None, text
        assert Clock(kind, **known).read(text) == pytest.approx(moment), text


def test_a_clock_goes_over_midnight_wraps_and_counts_falls():
    clock = Clock(Kind.CLOCK, day=DAY)
    before, after = clock.read("23:59:59"), clock.read("00:00:01")
    assert after - before == 2
    since = Clock(Kind.UP_MS, anchor_s=0.0)
    assert since.read("4294967000") < since.read("704")
    assert since.read("704") == pytest.approx(2**32 / 1000 + 0.704)
    back = Clock(Kind.CLOCK, day=DAY)
    assert back.read("12:00:00") > back.read("11:00:00")
    assert back.fell_back == 1
    assert Clock(Kind.CLOCK).read("12:00:00") is None
    assert Clock(Kind.UP_S).read("12") is None


def test_what_is_no_time_is_refused():
    assert kind_of("soon") is None
    assert date_in("99.99.2026") is None
    assert zone_of("Z") is UTC
    for text in ("CET", "+15:00"):
        with pytest.raises(ValueError, match="must be like"):
            zone_of(text)
    with pytest.raises(ValueError, match="no time of day"):
        Clock(Kind.CLOCK, day=DAY).read("12:99:00")
    with pytest.raises(ValueError, match="no date"):
        Clock(Kind.FULL).read("32.13.2026 12:00:00")


def test_a_counter_in_bytes_is_found_by_how_it_grows():
    high = [f"a5{n:04x}07{n * 7 % 256:02x}" for n in range(250, 270)]
    found = counter_in(high)
    assert [read_counter(text, found) for text in high] == list(range(250, 270))
    low = [(b"\x01" + n.to_bytes(4, "little") + b"\x30").hex(" ") for n in range(65530, 65550)]
    found = counter_in(low)
    assert [read_counter(text, found) for text in low] == list(range(65530, 65550))
    words = [f"hello {n}".encode().hex() for n in range(9, 15)]
    assert [read_counter(text, counter_in(words)) for text in words] == list(range(9, 15))
    assert counter_in(["00112233", "99aa0011", "5512f010", "00aaff77", "71720900"]) is None
    with pytest.raises(ValueError, match="ends at byte"):
        read_counter("a500", counter_in(high))
    with pytest.raises(ValueError, match="no payload"):
        read_counter("xyz", found)


def test_several_receivers_of_one_line_are_told_one_by_one():
    told = told_in(gateways(walk()).splitlines())
    assert {event.values[Meaning.RECEIVER] for event in told} == {"barn", "pump"}
    assert all(event.time_s is not None for event in told)


@pytest.mark.parametrize(
    ("lines", "words"),
    [
        ([f"rx seq={i} quality={40 + i}%" for i in range(9)], None),
        ([f"rx seq={i} rssi={40 + i}%" for i in range(9)], "per cent"),
        ([f"rx seq={i} rssi={150 + 9 * i}" for i in range(9)], "register"),
        ([f"rx seq={i} rssi_raw={60 + i * 7 % 5}" for i in range(9)], "register"),
        ([f"05/06/2026 14:02:0{i} seq={i} rssi=-80" for i in range(9)], "month"),
        ([f"{i},{i},-8{i}" for i in range(9)], "counts the frames"),
        (["hello", "world"], "Is this a frame log?"),
    ],
)
def test_what_a_log_leaves_open_is_asked_once(lines, words):
    questions = propose(lines).questions
    assert len(questions) == (0 if words is None else 1)
    assert words is None or words in " ".join(questions[0])


def test_what_is_said_answers_the_question():
    lines = [f"rx seq={i} rssi={40 + i}%" for i in range(9)]
    _, events = events_of(lines, Said(percent=(-130.0, -50.0)))
    assert events[0].values[Meaning.RSSI] == -130 + 0.4 * 80


def test_every_part_is_used_or_listed_as_unused():
    lines = [f"rx seq={i} rssi=-8{i} bat=3.{i} humidity=4{i}" for i in range(9)]
    recipe = propose(lines).recipe
    assert {use.name for use in recipe.uses} | set(recipe.unused) == {
        "seq",
        "rssi",
        "bat",
        "humidity",
    }


def test_lines_that_look_like_frames_and_are_none_are_damage():
    lines = [f"rx seq={i} rssi=-8{i}" for i in range(9)]
    lines += ["rx seq=9 rs", "rx seq=9 rssi=-900", "boot ok", "\x00\x01", "crc error seq=4"]
    _, events = events_of(lines)
    assert [type(event) for event in events[9:]] == [Damaged, Damaged, Aside, Damaged, Damaged]
    table = ["nr,rssi,snr", *(f"{i},-8{i},7" for i in range(9)), "9,-8"]
    assert "the header has 3" in events_of(table)[1][-1].reason
    objects = [*(f'{{"seq":{i},"rssi":-8{i}}}' for i in range(9)), '{"seq":9,"rs']
    assert "no whole JSON" in events_of(objects)[1][-1].reason
    prefixed = [*(f"RX,{i},-8{i},7.5" for i in range(9)), "RX,9,-8"]
    assert "begins like a frame" in events_of(prefixed)[1][-1].reason
    assert "characters" in events_of([*lines[:9], "x" * 9000])[1][-1].reason


def test_what_stands_holds_for_the_frames_after_it():
    lines = ["stop 1", "noise: -117 dBm"]
    lines += [f"rx seq={i} rssi=-8{i}" for i in range(5)] + ["stop 2"]
    lines += [f"rx seq={i} rssi=-8{i}" for i in range(5, 9)]
    told = told_in(lines)
    assert [event.values[Meaning.STOP] for event in told] == ["1"] * 5 + ["2"] * 4
    assert told[0].values[Meaning.NOISE] == -117


def test_heard_and_acknowledged_columns_say_what_was_lost():
    lines = ["seq,rssi,heard", *(f"{i},-8{i},{int(i != 4)}" for i in range(9))]
    assert [event.act for event in told_in(lines)].count(Act.LOST) == 1
    lines = [f"tx seq={i} ack={'ok' if i % 2 else 'none'}" for i in range(9)]
    assert [event.act for event in told_in(lines)].count(Act.REPLY) == 4


def _sentence(body):
    check = 0
    for char in body:
        check ^= ord(char)
    return f"${body}*{check:02X}"


@pytest.mark.parametrize(
    ("line", "rig", "act"),
    [
        ("rig=A sent seq=4", "A", Act.SENT),
        ("rig=A heard seq=4 rssi=-80", "A", Act.HEARD),
        ("rig=A lost seq=4", "A", Act.LOST),
        ("name=North gate seq=4", "North gate", Act.HEARD),
    ],
)
def test_a_verb_behind_a_value_is_none_of_it(line, rig, act):
    pieces = taken_apart(line)
    assert pieces.parts[0].text == rig
    assert act_of(pieces.words) is act


def test_positions_are_read_where_the_checksum_is_right():
    # worked example of NMEA 0183 sentences, from memory: 48 degrees 07.038 minutes north
    spot = nmea.position(_sentence("GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,"))
    assert (spot.lat, spot.lon) == (pytest.approx(48.1173), pytest.approx(11.5166667))
    assert (spot.satellites, spot.hdop, spot.quality, spot.age_s) == (8, 0.9, 1, None)
    corrected = "GPGGA,123519,4807.038,N,01131.000,E,2,11,0.7,545.4,M,46.9,M,5.0,0120"
    assert nmea.position(_sentence(corrected))[-2:] == (2, 5.0)
    dated = nmea.position(
        _sentence("GPRMC,123519,A,4807.038,N,01131.000,E,022.4,084.4,230394,003.1,W")
    )
    assert dated.time_s == datetime(1994, 3, 23, 12, 35, 19, tzinfo=UTC).timestamp()
    assert nmea.position(_sentence("GPGGA,123519,4807.038,N,01131.000,E,0,00,,,M,,M,,")) is None
    assert nmea.position(_sentence("GPGSV,1,1,00")) is None
    with pytest.raises(ValueError, match="damaged"):
        nmea.position("$GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,*00")


def test_a_position_goes_stale():
    fix = _sentence("GPGGA,140000,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,")
    lines = [f"14:00:00 {fix}", *(f"14:0{i}:10 rx seq={i} rssi=-8{i}" for i in range(5))]
    placed = [Meaning.LAT in event.values for event in told_in(lines)]
    assert placed == [True, False, False, False, False]
    wrong = [f"14:00:00 {fix[:-2]}00", *lines[1:]]
    assert isinstance(events_of(wrong)[1][0], Damaged)


def test_boards_named_first_are_values_and_not_kinds_of_line():
    lines = [f"{rig} {i} -{80 + i} {i}.5" for i in range(9) for rig in ("alpha", "beta")]
    told = told_in(lines)
    assert {event.values[Meaning.SOURCE] for event in told} == {"alpha", "beta"}


def test_times_stand_in_columns_of_many_kinds():
    by_name = {
        "time": [f"14:02:0{i}" for i in range(9)],
        "date": ["2026-11-15"] * 9,
        "timestamp": [f"{1_763_215_323 + i}" for i in range(9)],
        "uptime": [f"{90_000 + 500 * i}" for i in range(9)],
        "millis": [f"{500 * i}" for i in range(9)],
        "micros": [f"{500_000 * i}" for i in range(9)],
        "uptime (s)": [f"{0.5 * i}" for i in range(9)],
    }
    kinds = {
        "time": Kind.CLOCK, "date": Kind.FULL, "timestamp": Kind.EPOCH_S, "uptime": Kind.UP_MS,
        "millis": Kind.UP_MS, "micros": Kind.UP_US, "uptime (s)": Kind.UP_S,
    }  # fmt: skip
    for name, texts in by_name.items():
        lines = [f"nr,rssi,{name}", *(f"{i},-8{i},{text}" for i, text in enumerate(texts))]
        found = [use.kind for use in propose(lines).recipe.uses if use.name == name]
        assert found == [kinds[name]], name
    lines = ["nr,rssi,date,time", *(f"{i},-8{i},2026-11-15,14:02:0{i}" for i in range(9))]
    assert told_in(lines)[0].time_s == datetime(2026, 11, 15, 14, 2, 0, tzinfo=UTC).timestamp()


def test_levels_without_names_are_told_by_their_figures():
    assert meanings([f"{i},{70 + (9 - i) % 5},y" for i in range(9)])["/3[2]"] is Meaning.RSSI
    found = meanings([f"{i},-{80 + i % 5},-117.{i},6.{i}" for i in range(9)])
    assert found == {
        "/4[1]": Meaning.SEQ, "/4[2]": Meaning.RSSI, "/4[3]": Meaning.NOISE, "/4[4]": Meaning.SNR,
    }  # fmt: skip
    assert meanings([f"n {i} x -8{i} dBm" for i in range(9)])["x"] is Meaning.RSSI
    assert meanings([f"n={i} rssi=-8{i} noise=117" for i in range(9)])["noise"] is Meaning.NOISE


def test_a_counter_of_other_lines_is_found_beside_the_first():
    lines = [f"rx {i} rssi=-8{i % 9}" if i % 4 else f"miss {i}" for i in range(20)]
    told = told_in(lines)
    assert [event.values[Meaning.SEQ] for event in told if event.act is Act.LOST] == [
        0,
        4,
        8,
        12,
        16,
    ]


def test_an_empty_log_and_one_line_are_answered():
    assert propose([]).questions
    assert told_in(["seq=1 rssi=-80"])[0].values == {Meaning.SEQ: 1, Meaning.RSSI: -80.0}


def test_no_log_is_looked_at_for_longer_than_its_first_million_characters():
    assert len(sample_of("x" * 9_000 for _ in range(1_000))) < 130
    assert len(sample_of("x" for _ in range(30_000))) == 20_000


def test_a_receiver_is_named_by_whose_id_it_is():
    lines = [
        f'{{"counter": {i}, "gateways": [{{"id": "gw-a", "rssi": -8{i}}}, {{"id": "gw-b", "rssi": -9{i}}}]}}'
        for i in range(9)
    ]
    assert {event.values[Meaning.RECEIVER] for event in told_in(lines)} == {"gw-a", "gw-b"}


def test_a_table_drawn_with_bars_has_heads_too():
    lines = ["| nr | board | place | RSSI |", "|----|----|----|----|"]
    lines += [f"| {i} | A | dock | -8{i} |" for i in range(9)]
    told = told_in(lines)
    assert [event.values[Meaning.SEQ] for event in told] == list(range(9))
    assert {event.values[Meaning.STOP] for event in told} == {"dock"}
    assert [type(event) for event in events_of(lines)[1][:2]] == [Aside, Aside]


def test_a_date_in_a_cell_of_its_own_dates_the_time_beside_it():
    lines = [f"27.11.2026;14:00:0{i};{i};-8{i * 7 % 5},25;A" for i in range(9)]
    told = told_in(lines)
    assert told[3].time_s == datetime(2026, 11, 27, 14, 0, 3, tzinfo=UTC).timestamp()
    assert told[3].values[Meaning.SOURCE] == "A"


def test_a_counter_in_brackets_may_be_hexadecimal():
    told = told_in([f"RX [{i:02X}] {-80 - i % 7}dBm" for i in range(5, 40)])
    assert [event.values[Meaning.SEQ] for event in told] == list(range(5, 40))


def test_positions_as_objects_keep_their_time_and_how_good_they_are():
    lines = [
        '{"time": "2026-11-14T12:00:05Z", "lat": 47.5, "lon": -21.0, "hdop": 1.4}',
        '{"time": "2026-11-14T12:00:09Z", "lat": 47.6, "lon": -21.0, "hdop": 1.2}',
    ]
    found = [event for event in events_of(lines)[1] if isinstance(event, Fix)]
    assert [(fix.lat, fix.hdop) for fix in found] == [(47.5, 1.4), (47.6, 1.2)]
    assert found[1].time_s - found[0].time_s == 4
