"""What the lists of the shelf show of each part and each rig."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from functools import partial
from typing import Any

from inchmark.core.wording import distance, number
from inchmark.pages.listing import Head, ListCell, Listing, ListRow, Wanted, listing
from inchmark.shelf.adapters.parts import CONNECTORS, chain_of, feed_figures
from inchmark.shelf.figures.limits import TYPED, Duty
from inchmark.shelf.figures.rigs import rig_figures
from inchmark.shelf.models import Antenna, Battery, Feed, Module, Rig, Surrounding, Unit

NONE = "–"


def _figure(
    value: float | None, digits: int = 1, *, scale: float = 1.0, under: str = ""
) -> ListCell:
    if value is None:
        return ListCell(NONE)
    return ListCell(number(value * scale, digits), value, under)


def _module_cells(module: Module) -> list[ListCell]:
    bands = ", ".join(f"{low / 1e6:g}–{high / 1e6:g}" for low, high in module.bands)
    return [
        ListCell(module.name, under=module.note),
        ListCell(bands or NONE, module.bands[0][0] if module.bands else None),
        ListCell(
            f"{number(module.power_low_dbm, 0)} … {number(module.power_high_dbm, 0)}",
            module.power_high_dbm,
        ),
        _figure(module.noise_figure_db),
        _figure(module.receive_a, scale=1e3),
        _figure(module.sleep_a, scale=1e6),
        ListCell(CONNECTORS.get(module.connector, NONE)),
        _figure(module.price, 2),
    ]


def _antenna_cells(antenna: Antenna) -> list[ListCell]:
    size = (
        ListCell(NONE)
        if antenna.size_m is None
        else ListCell(distance(antenna.size_m), antenna.size_m)
    )
    return [
        ListCell(antenna.name, under=antenna.note),
        ListCell(antenna.get_type_display()),
        _figure(antenna.gain_dbi, 2),
        ListCell(antenna.get_polarisation_display()),
        size,
        ListCell(CONNECTORS.get(antenna.connector, NONE)),
        _figure(antenna.price, 2),
    ]


def _feed_cells(feed: Feed, frequency_hz: float) -> list[ListCell]:
    at = feed_figures(feed, frequency_hz)
    ends = f"{CONNECTORS.get(feed.near_connector)} to {CONNECTORS.get(feed.far_connector)}"
    return [
        ListCell(feed.name, under=feed.note),
        ListCell(feed.cable or NONE),
        _figure(feed.length_m, 2, under=", ".join(link[0] for link in feed.links)),
        ListCell(str(feed.joints), feed.joints),
        _figure(at.loss_db, 2, under="" if at.covered else "beyond the cable's table"),
        ListCell(ends),
        _figure(feed.price, 2),
    ]


def _battery_cells(battery: Battery) -> list[ListCell]:
    return [
        ListCell(battery.name, under=battery.note),
        _figure(battery.capacity_ah, 2),
        _figure(battery.voltage_v),
        _figure(battery.usable_percent, 0),
        _figure(battery.self_discharge_percent, 1),
        _figure(battery.keep_on_a, 0, scale=1e3),
        _figure(battery.price, 2),
    ]


def _surrounding_cells(one: Surrounding) -> list[ListCell]:
    return [
        ListCell(one.name, under=one.walked or one.note),
        _figure(one.exponent, 2, under=_limits(one.exponent_low, one.exponent_high)),
        _figure(one.offset_db, 1, under=_limits(one.offset_low_db, one.offset_high_db)),
        _figure(one.at_m, 0),
        _figure(one.shadowing_db, 1, under=_limits(one.shadowing_low_db, one.shadowing_high_db)),
        _figure(one.stops, 0),
    ]


def _limits(low: float | None, high: float | None) -> str:
    return "" if low is None or high is None else f"{number(low)} … {number(high)}"


def _unit_cells(unit: Unit) -> list[ListCell]:
    return [
        ListCell(unit.serial, under=unit.note),
        ListCell(str(unit.of)),
        ListCell("module" if unit.module_id else "antenna"),
        ListCell(unit.batch or NONE),
    ]


_NAME, _PRICE = Head("name", "Name"), Head("price", "price", "each", number=True)


_KINDS: dict[str, tuple[tuple[Head, ...], Callable[[Any], list[ListCell]]]] = {
    "modules": (
        (
            _NAME,
            Head("bands", "bands", "MHz", number=True),
            Head("power", "power", "dBm", number=True),
            Head("nf", "noise figure", "dB", number=True),
            Head("rx", "receive", "mA", number=True),
            Head("sleep", "sleep", "µA", number=True),
            Head("connector", "connector"),
            _PRICE,
        ),
        _module_cells,
    ),
    "antennas": (
        (
            _NAME,
            Head("type", "type"),
            Head("gain", "gain", "dBi", number=True),
            Head("polarisation", "polarisation"),
            Head("size", "size", number=True),
            Head("connector", "connector"),
            _PRICE,
        ),
        _antenna_cells,
    ),
    "feeds": (
        (
            _NAME,
            Head("cable", "cable"),
            Head("length", "length", "m", number=True),
            Head("joints", "joints", number=True),
            Head("loss", "loss", "dB", number=True),
            Head("ends", "radio to antenna"),
            _PRICE,
        ),
        partial(_feed_cells, frequency_hz=868e6),
    ),
    "batteries": (
        (
            _NAME,
            Head("capacity", "capacity", "Ah", number=True),
            Head("voltage", "voltage", "V", number=True),
            Head("usable", "usable", "%", number=True),
            Head("lost", "self-discharge", "% a year", number=True),
            Head("keep", "off under", "mA", number=True),
            _PRICE,
        ),
        _battery_cells,
    ),
    "surroundings": (
        (
            _NAME,
            Head("exponent", "exponent", number=True),
            Head("offset", "beyond free space", "dB", number=True),
            Head("at", "at", "m", number=True),
            Head("spread", "between places", "dB", number=True),
            Head("stops", "stops", number=True),
        ),
        _surrounding_cells,
    ),
    "units": (
        (
            Head("serial", "Serial"),
            Head("of", "piece of"),
            Head("kind", "kind"),
            Head("batch", "batch"),
        ),
        _unit_cells,
    ),
}


def part_list(
    kind: str, parts: Iterable[Any], wanted: Wanted, *, frequency_hz: float = 868e6
) -> Listing:
    """Return the parts of a kind as asked for; feeds lose what they do at a frequency [Hz]."""
    heads, cells = _KINDS[kind]
    if kind == "feeds":
        loss = f"dB at {frequency_hz / 1e6:.5g} MHz"
        heads = tuple(replace(head, unit=loss) if head.key == "loss" else head for head in heads)
        cells = partial(_feed_cells, frequency_hz=frequency_hz)
    rows = [ListRow(item=part, cells=cells(part), archived=part.archived) for part in parts]
    return listing(heads, rows, wanted)


_RIG_HEADS = (
    Head("rig", "Rig"),
    Head("module", "Module and setting"),
    Head("antenna", "Antenna"),
    Head("power", "power", "dBm", number=True),
    Head("eirp", "e.i.r.p.", "dBm", number=True),
    Head("sensitivity", "sensitivity", "dBm", number=True),
    Head("airtime", "on air", "ms", number=True),
    Head("hour", "an hour", "messages", number=True),
)


def rig_list(rigs: Iterable[Rig], wanted: Wanted) -> Listing:
    """Return the rigs as asked for."""
    rows = [ListRow(item=rig, cells=_rig_cells(rig)) for rig in rigs]
    return listing(_RIG_HEADS, rows, wanted)


def _duty_words(duty: Duty) -> str:
    at = f"at {duty.percent:g} %"
    return at if duty.source == TYPED else f"{at}, {duty.source}"


def _rig_cells(rig: Rig) -> list[ListCell]:
    figures = rig_figures(rig)
    height = f"{number(rig.antenna_gain_dbi, 1, sign=True)} dBi at {number(rig.height_m)} m"
    hourly = f"{figures.messages_per_hour:,}".replace(",", "\N{NARROW NO-BREAK SPACE}")
    return [
        ListCell(rig.letter),
        ListCell(rig.module, under=f"{rig.setting}, {rig.get_modulation_display()}"),
        ListCell(
            rig.antenna, under=f"! parts do not go together; {height}" if chain_of(rig) else height
        ),
        _figure(rig.power_dbm),
        _figure(figures.radiated_dbm),
        _figure(figures.sensitivity.dbm, under=figures.sensitivity.source),
        _figure(figures.airtime_s, 0 if figures.airtime_s >= 0.01 else 2, scale=1e3),
        ListCell(hourly, figures.messages_per_hour, _duty_words(figures.duty)),
    ]
