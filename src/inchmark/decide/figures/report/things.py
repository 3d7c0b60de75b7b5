"""Sections on what stood there: notes and how they were settled, parts, limits, logs, words."""

from __future__ import annotations

from collections.abc import Sequence

from inchmark.core.wording import distance, number
from inchmark.decide.figures.report.document import Section, Table
from inchmark.decide.figures.report.measured import NOTHING
from inchmark.plan.figures.walls import WallRow
from inchmark.shelf.adapters.ends import sensitivity_of
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.figures.beside import Value
from inchmark.shelf.figures.limits import legal_checks
from inchmark.shelf.models import Rig
from inchmark.studies.models import NoteDecision
from inchmark.studies.side_notes import SideNote
from inchmark.walk.models import FrameFile, ReadBack

SETTLED = {NoteDecision.OPEN: "open"}
GLOSSARY = (
    ("rig", "one candidate: module, setting, antenna, feed and housing, against a stated fixed end"),
    ("fixed end, carried end", "the end that stays, and the end that walks"),
    ("visit", "one rig at one stop on one walk, carried one way"),
    ("in hand", "dB above the level at which half of the frames are lost (link margin)"),
    ("loss rule", "at most this share of frames lost, at this share of places"),
    ("95 %", "limits that hold the true value in 95 of 100 such studies, were the model right"),
    ("e.r.p., e.i.r.p.", "power radiated against a half-wave dipole, against an isotropic radiator"),
    ("RSSI", "received signal strength as the module reports it"),
    ("shadowing", "how places of one distance differ, beyond the slope"),
    ("n", "how many frames, stops or visits a figure rests on"),
)  # fmt: skip


def notes_section(notes: Sequence[SideNote]) -> Section:
    """Return every note and what was done about it."""
    rows = tuple(
        (one.title, one.text, SETTLED.get(one.state, one.state), one.reason or NOTHING)
        for one in notes
    )
    table = Table(
        caption="What the program noted, and how it was settled",
        heads=("Note", "what it says", "settled", "reason given"),
        rows=rows,
    )
    words = () if rows else ("Nothing was noted.",)
    return Section(key="notes", title="Notes", words=words, tables=(table,) if rows else ())


def parts_section(
    rigs: Sequence[Rig], lives: dict[int, Value], read_backs: Sequence[ReadBack]
) -> Section:
    """Return the rigs with their settings, and what boards answered when read back."""
    rows = tuple(_rig_row(one, lives.get(one.pk)) for one in rigs)
    rigs_table = Table(
        caption="Rigs as they stand on the shelf",
        heads=(
            "Rig", "module, setting", "antenna, dBi", "height, m", "power, dBm",
            "fixed end: antenna, dBi; height, m", "sensitivity, dBm (half lost)",
            "a message on air, ms", "battery, years",
        ),
        rows=rows,
    )  # fmt: skip
    tables = [rigs_table]
    if read_backs:
        tables.append(
            Table(
                caption="Settings read back from the boards, as they came",
                heads=("Source", "when", "asked", "answered"),
                rows=tuple(
                    (one.source, f"{one.at:%d %b %Y %H:%M}", one.asked, one.answered[:400])
                    for one in read_backs
                ),
            )
        )
    words = () if read_backs else ("No settings were read back from the boards.",)
    return Section(key="parts", title="Parts and settings", words=words, tables=tuple(tables))


def _rig_row(rig: Rig, life: Value | None) -> tuple[str, ...]:
    threshold = sensitivity_of(rig)
    return (
        rig.letter, f"{rig.module}, {rig.setting}, {rig.frequency_hz / 1e6:g} MHz",
        f"{rig.antenna}, {number(rig.antenna_gain_dbi, 2)}", number(rig.height_m, 1),
        number(rig.power_dbm, 1),
        f"{rig.fixed_antenna or NOTHING}, {number(rig.fixed_gain_dbi, 2)}; {number(rig.fixed_height_m, 1)}",
        f"{number(threshold.threshold_dbm, 1)}, {threshold.words}",
        number(1e3 * airtime_s(rig), 1),
        number(life.value, 1) if life and life.value else NOTHING,
    )  # fmt: skip


def _thick(one: WallRow) -> str:
    return f"{distance(one.thickness_m)} " if one.thickness_m else ""


def walls_section(rows: Sequence[WallRow], frequency_hz: float | None) -> Section | None:
    """Return the walls that were drawn, and what one crossing of each is said to cost; None without any."""
    if not rows:
        return None
    at = f" at {frequency_hz / 1e6:g} MHz" if frequency_hz else ""
    table = Table(
        caption=f"Walls as drawn on the plan, and what one crossing is said to cost{at}",
        heads=("Wall", "made of", "long", "a crossing, dB", "by"),
        rows=tuple(
            (
                str(one.wall), f"{_thick(one)}{one.wall.get_kind_display()}", distance(one.length_m),
                NOTHING if one.loss_db is None else number(one.loss_db, 1), one.why,
            )
            for one in rows
        ),
        numbers=frozenset({3}),
    )  # fmt: skip
    words = (
        "Each counts where the straight line from receiver to place crosses it, whatever the angle."
    )
    return Section(key="walls", title="Walls", words=(words,), tables=(table,))


def limits_section(rigs: Sequence[Rig], region: str) -> Section:
    """Return both ends of every rig against the table of limits, with the document of each row."""
    rows = []
    for rig in rigs:
        for check in legal_checks(rig, region):
            best = check.best
            if best is None:
                rows.append((rig.letter, check.end, NOTHING, NOTHING, NOTHING, "no row covers it"))
                continue
            limit = best.limit
            duty = NOTHING if limit.duty_cycle_percent is None else f"{limit.duty_cycle_percent:g}"
            memory = ", from memory" if limit.from_memory else ""
            rows.append(
                (
                    rig.letter, check.end,
                    f"{number(best.power_dbm, 1)} of {number(limit.power_dbm, 1)} {limit.kind}",
                    f"{number(best.duty_cycle_percent, 3)} of {duty}",
                    "within" if best.fits else "over",
                    f"{limit.band}, {limit.access}; {limit.document}, {limit.date}{memory}",
                )
            )  # fmt: skip
    table = Table(
        caption="What the rigs radiate against the table of limits",
        heads=("Rig", "end", "power, dBm", "time on air, %", "verdict", "row and its source"),
        rows=tuple(rows),
    )
    caution = (
        "The table is a help, not the law: check the rules of the place; licensed people decide."
    )
    return Section(key="limits", title="Limits", words=(caution,), tables=(table,) if rows else ())


def logs_section(files: Sequence[FrameFile]) -> Section:
    """Return the logs the figures come from."""
    rows = tuple(
        (
            one.name, f"walk {one.walk.number}", f"{one.frame_count}", f"{one.bad_count}",
            f"set aside: {one.aside_reason}" if one.aside_reason else "counts", one.sha256,
        )
        for one in files
    )  # fmt: skip
    table = Table(
        caption="Logs as they came",
        heads=("Log", "walk", "frames (n)", "lines not read (n)", "counts", "SHA-256"),
        rows=rows, numbers=frozenset({2, 3}),
    )  # fmt: skip
    return Section(key="logs", title="Where the figures come from", tables=(table,) if rows else ())


def glossary_section() -> Section:
    """Return the words of the report."""
    table = Table(caption="Words", heads=("word", "what it means here"), rows=GLOSSARY)
    return Section(key="glossary", title="Words", tables=(table,))


def method_words(loss: str, places: str, visits: int, frames: int, walks: int) -> tuple[str, ...]:
    """Return in plain words how it was measured and read."""
    return (
        f"One end stayed, the other was carried to measured stops. At each, frames with a counter were sent and those that arrived were logged: {frames} frames in {visits} visits on {walks} walk{'s' if walks != 1 else ''}.",
        "A frame that did not arrive says that its level was low: levels are estimated with the lost frames counted, not from those that arrived alone, which would flatter every rig near its edge.",
        "One model is fitted to all visits together: a slope of level over distance, what each rig has on the others, the level at which half of its frames are lost, how places of one distance differ (shadowing, alike for places near each other), and what is lost whatever the level. Doubt in all of them is carried through by joint draws; limits hold 95 % of them.",
        f"A range is the distance up to which at most {loss} of frames are lost at {places} of places. A place is served if it meets that rule; how many are served has limits of its own, from the same draws.",
        "Docs/method.md holds the mathematics, the priors and how often such limits held the truth in simulated studies.",
    )
