"""What the lists of the shelf show of each part and each rig."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from inchmark.core.wording import distance, number
from inchmark.pages.listing import Cell, Head, Listing, Row, Wanted, listing
from inchmark.shelf.models import Antenna, Battery, Feed, Module, Rig, Unit
from inchmark.shelf.records.parts import CONNECTORS, feed_figures
from inchmark.shelf.records.rigs import figures_of

NONE = "–"


def _figure(value: float | None, digits: int = 1, *, scale: float = 1.0, under: str = "") -> Cell:
    if value is None:
        return Cell(NONE)
    return Cell(number(value * scale, digits), value, under)


def _module_cells(module: Module) -> list[Cell]:
    bands = ", ".join(f"{low / 1e6:g}–{high / 1e6:g}" for low, high in module.bands)
    return [
        Cell(module.name, under=module.note),
        Cell(bands or NONE, module.bands[0][0] if module.bands else None),
        Cell(
            f"{number(module.power_low_dbm, 0)} … {number(module.power_high_dbm, 0)}",
            module.power_high_dbm,
        ),
        _figure(module.noise_figure_db),
        _figure(module.receive_a, scale=1e3),
        _figure(module.sleep_a, scale=1e6),
        Cell(CONNECTORS.get(module.connector, NONE)),
        _figure(module.price, 2),
    ]


def _antenna_cells(antenna: Antenna) -> list[Cell]:
    size = Cell(NONE) if antenna.size_m is None else Cell(distance(antenna.size_m), antenna.size_m)
    return [
        Cell(antenna.name, under=antenna.note),
        Cell(antenna.get_type_display()),
        _figure(antenna.gain_dbi, 2),
        Cell(antenna.get_polarisation_display()),
        size,
        Cell(CONNECTORS.get(antenna.connector, NONE)),
        _figure(antenna.price, 2),
    ]


def _feed_cells(feed: Feed) -> list[Cell]:
    at = feed_figures(feed, 868e6)
    ends = f"{CONNECTORS.get(feed.near_connector)} to {CONNECTORS.get(feed.far_connector)}"
    return [
        Cell(feed.name, under=feed.note),
        Cell(feed.cable or NONE),
        _figure(feed.length_m, 2),
        Cell(str(feed.joints), feed.joints),
        _figure(at.loss_db, 2, under="" if at.covered else "beyond the cable's table"),
        Cell(ends),
        _figure(feed.price, 2),
    ]


def _battery_cells(battery: Battery) -> list[Cell]:
    return [
        Cell(battery.name, under=battery.note),
        _figure(battery.capacity_ah, 2),
        _figure(battery.voltage_v),
        _figure(battery.usable_percent, 0),
        _figure(battery.self_discharge_percent, 1),
        _figure(battery.keep_on_a, 0, scale=1e3),
        _figure(battery.price, 2),
    ]


def _unit_cells(unit: Unit) -> list[Cell]:
    return [
        Cell(unit.serial, under=unit.note),
        Cell(str(unit.of)),
        Cell("module" if unit.module_id else "antenna"),
        Cell(unit.batch or NONE),
    ]


_NAME, _PRICE = Head("name", "Name"), Head("price", "price", "each", number=True)
_KINDS: dict[str, tuple[tuple[Head, ...], Callable[[Any], list[Cell]]]] = {
    "modules": (
        (_NAME, Head("bands", "bands", "MHz", number=True),
         Head("power", "power", "dBm", number=True),
         Head("nf", "noise figure", "dB", number=True),
         Head("rx", "receive", "mA", number=True), Head("sleep", "sleep", "µA", number=True),
         Head("connector", "connector"), _PRICE), _module_cells),
    "antennas": (
        (_NAME, Head("type", "type"), Head("gain", "gain", "dBi", number=True),
         Head("polarisation", "polarisation"), Head("size", "size", number=True),
         Head("connector", "connector"), _PRICE), _antenna_cells),
    "feeds": (
        (_NAME, Head("cable", "cable"), Head("length", "length", "m", number=True),
         Head("joints", "joints", number=True),
         Head("loss", "loss", "dB at 868 MHz", number=True),
         Head("ends", "radio to antenna"), _PRICE), _feed_cells),
    "batteries": (
        (_NAME, Head("capacity", "capacity", "Ah", number=True),
         Head("voltage", "voltage", "V", number=True), Head("usable", "usable", "%", number=True),
         Head("lost", "self-discharge", "% a year", number=True),
         Head("keep", "off under", "mA", number=True), _PRICE), _battery_cells),
    "units": (
        (Head("serial", "Serial"), Head("of", "piece of"), Head("kind", "kind"),
         Head("batch", "batch")), _unit_cells),
}  # fmt: skip


def part_list(kind: str, parts: Iterable[Any], wanted: Wanted) -> Listing:
    """Return the parts of a kind as asked for."""
    heads, cells = _KINDS[kind]
    rows = [Row(item=part, cells=cells(part), archived=part.archived) for part in parts]
    return listing(heads, rows, wanted)


_RIG_HEADS = (
    Head("rig", "Rig"), Head("module", "Module and setting"), Head("antenna", "Antenna"),
    Head("power", "power", "dBm", number=True), Head("eirp", "e.i.r.p.", "dBm", number=True),
    Head("sensitivity", "sensitivity", "dBm", number=True),
    Head("airtime", "on air", "ms", number=True), Head("hour", "an hour", "messages", number=True),
)  # fmt: skip


def rig_list(rigs: Iterable[Rig], wanted: Wanted) -> Listing:
    """Return the rigs as asked for."""
    rows = [Row(item=rig, cells=_rig_cells(rig)) for rig in rigs]
    return listing(_RIG_HEADS, rows, wanted)


def _rig_cells(rig: Rig) -> list[Cell]:
    figures = figures_of(rig)
    height = f"{number(rig.antenna_gain_dbi, 1, sign=True)} dBi at {number(rig.height_m)} m"
    hourly = f"{figures.messages_per_hour:,}".replace(",", "\N{NARROW NO-BREAK SPACE}")
    return [
        Cell(rig.letter),
        Cell(rig.module, under=f"{rig.setting}, {rig.get_modulation_display()}"),
        Cell(rig.antenna, under=height),
        _figure(rig.power_dbm),
        _figure(figures.radiated_dbm),
        _figure(figures.sensitivity.dbm, under=figures.sensitivity.source),
        _figure(figures.airtime_s, 0 if figures.airtime_s >= 0.01 else 2, scale=1e3),
        Cell(hourly, figures.messages_per_hour, f"at {rig.duty_cycle_percent:g} %"),
    ]
