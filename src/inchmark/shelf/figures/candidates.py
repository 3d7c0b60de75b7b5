"""What the shelf knows of rigs and antennas as candidates: figures with their sources, and marks."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from inchmark.core.budget import allowed_path_loss_db
from inchmark.core.energy import HOURS_PER_YEAR, Load, Phase
from inchmark.core.wording import listed, number
from inchmark.shelf.adapters.ends import carried_end, fixed_end
from inchmark.shelf.adapters.parts import core_battery
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.adapters.settings import transmit_current_a
from inchmark.shelf.adapters.sweeps import core_sweep
from inchmark.shelf.adapters.walked import WalkedRigs
from inchmark.shelf.figures.beside import GAINED, PRICE, Candidate, Column, Value
from inchmark.shelf.figures.limits import legal_checks
from inchmark.shelf.figures.rigs import rig_figures
from inchmark.shelf.figures.sweeps import sweep_figures
from inchmark.shelf.figures.traces import SHELF_LIFE_YEARS, trace_figures
from inchmark.shelf.models import Antenna, CurrentTrace, Rig, Sweep

SHEET, BENCH, WALK, COMPUTED = "datasheet", "bench", "walk", "computed"
RIG_COLUMNS = (
    Column(key="eirp", title="e.i.r.p.", unit="dBm", better=1),
    Column(key="sensitivity", title="sensitivity", unit="dBm", better=-1),
    Column(key="path", title="path it bears", unit="dB", better=1),
    *GAINED,
    Column(key="walked", title="range walked", unit="m", digits=0, better=1, shares=True),
    Column(key="airtime", title="on air", unit="ms", better=-1, shares=True),
    Column(key="energy", title="a message", unit="mJ", digits=2, better=-1, shares=True),
    Column(key="life", title="battery", unit="years", better=1, shares=True),
    *PRICE,
)
ANTENNA_COLUMNS = (
    Column(key="gain", title="gain", unit="dBi", digits=2, better=1),
    Column(key="vswr", title="VSWR", unit="there", digits=2, better=-1),
    Column(key="mismatch", title="mismatch", unit="dB", digits=2, better=-1),
    Column(key="net", title="gain less mismatch", unit="dBi", digits=2, better=1),
    *GAINED,
    Column(key="size", title="size", unit="mm", digits=0),
    *PRICE,
)


def rig_candidates(
    rigs: Iterable[Rig], traces: Mapping[int, CurrentTrace], walked: WalkedRigs
) -> list[Candidate]:
    """Return rigs as candidates; `traces` is the newest of each rig that has one, by its number."""
    return [_rig(rig, traces.get(rig.pk), walked) for rig in rigs]


def _rig(rig: Rig, trace: CurrentTrace | None, walked: WalkedRigs) -> Candidate:
    figures = rig_figures(rig)
    reach = walked.ranges_m.get(rig.letter)
    return Candidate(
        item=rig,
        label=rig.letter,
        letter=rig.letter,
        name=rig.name,
        marks=tuple(_against_rig(rig)),
        values={
            "eirp": Value(figures.radiated_dbm, BENCH if rig.vswr is not None else SHEET),
            "sensitivity": Value(figures.sensitivity.dbm, _sensitivity_source(rig)),
            "path": Value(allowed_path_loss_db(carried_end(rig), fixed_end(rig)), COMPUTED),
            "airtime": Value(1e3 * figures.airtime_s, COMPUTED),
            "walked": Value(reach, WALK if reach else ""),
            "price": _price(
                [rig.module_part, rig.antenna_part, rig.feed_part, rig.battery],
                ("module", "antenna", "feed", "battery"),
            ),
            **_energy(rig, trace, figures.airtime_s),
        },
    )


def _sensitivity_source(rig: Rig) -> str:
    if rig.conducted_dbm is not None:
        return BENCH
    return SHEET if rig.sensitivity_dbm is not None else COMPUTED


def _energy(rig: Rig, trace: CurrentTrace | None, airtime_s: float) -> dict[str, Value]:
    """Return energy of a message and battery life: by a trace, else by the datasheet's currents."""
    if trace is not None:
        found = trace_figures(trace)
        life = found.life_years.estimate if found.life_years else None
        return {"energy": Value(1e3 * found.energy_j, BENCH), "life": _life(life, BENCH)}
    module = rig.module_part
    sending = transmit_current_a(module, rig.power_dbm) if module else None
    if module is None or sending is None or airtime_s > rig.period_s:
        return {"energy": Value(None), "life": Value(None)}
    load = Load(
        phases=(Phase(duration_s=airtime_s, current_a=sending),),
        sleep_current_a=module.sleep_a or 0.0,
        period_s=rig.period_s,
    )
    life = None
    if rig.battery and module.sleep_a is not None:
        life = core_battery(rig.battery).life_h(load.average_current_a) / HOURS_PER_YEAR
    return {
        "energy": Value(1e3 * load.active_energy_j(module.supply_v), f"{SHEET}, sending alone"),
        "life": _life(life, f"{SHEET}, sending and sleep"),
    }


def battery_life(rig: Rig, trace: CurrentTrace | None) -> Value:
    """Return how long a rig's battery lasts [years]: by a trace, else by the datasheet's currents."""
    return _energy(rig, trace, airtime_s(rig))["life"]


def _life(years: float | None, source: str) -> Value:
    """Return a battery's life; past a cell's shelf life it says that the load is not what ends it."""
    if years is not None and years > SHELF_LIFE_YEARS:
        source = f"{source}; the cell’s own age ends it sooner"
    return Value(years, source)


def _price(parts: Sequence[object], names: Sequence[str]) -> Value:
    """Return the price of what has one; named is what has none."""
    there = [(part, name) for part, name in zip(parts, names, strict=True) if part is not None]
    priced = [getattr(part, "price", None) for part, _ in there]
    if not any(one is not None for one in priced):
        return Value(None)
    lacking = [name for (_, name), one in zip(there, priced, strict=True) if one is None]
    lacking += [name for part, name in zip(parts, names, strict=True) if part is None]
    return Value(
        sum(one for one in priced if one is not None),
        f"without {listed(lacking)}" if lacking else "",
    )


def _against_rig(rig: Rig) -> list[str]:
    """Return what speaks against a rig: over a limit, outside its band, more than its module gives."""
    found = [
        f"over the limit of {check.best.limit.band} at the {check.end}"
        for check in legal_checks(rig, rig.study.region)
        if check.best is not None and not check.fits
    ]
    module = rig.module_part
    if module and module.bands:
        inside = any(low <= rig.frequency_hz <= high for low, high in module.bands)
        if not inside:
            found.append(f"{rig.frequency_hz / 1e6:g} MHz is outside its module’s bands")
    if module and rig.power_dbm > module.power_high_dbm + 1e-9:
        found.append(f"its module gives {number(module.power_high_dbm)} dBm at most")
    return found


def antenna_candidates(
    antennas: Iterable[Antenna], sweeps: Mapping[int, Sweep], frequency_hz: float
) -> list[Candidate]:
    """Return antennas as candidates at a frequency [Hz]; `sweeps` is the newest of each, by its number."""
    return [_antenna(one, sweeps.get(one.pk), frequency_hz) for one in antennas]


def _antenna(antenna: Antenna, sweep: Sweep | None, frequency_hz: float) -> Candidate:
    match, marks = None, []
    if sweep is not None:
        core = core_sweep(sweep)
        if core.frequency_hz[0] <= frequency_hz <= core.frequency_hz[-1]:
            match = core.match_at(frequency_hz)
        else:
            marks.append(f"its sweep does not reach {frequency_hz / 1e6:g} MHz")
        if sweep_figures(sweep).flat:
            marks.append("its match is flat over a tenth of the frequency, as a load’s is")
    swept = f"{BENCH}, {sweep.swept_on:%-d %b %Y}" if sweep else ""
    loss = match.mismatch_loss_db if match else None
    gain = antenna.gain_dbi
    net = None if gain is None else gain - (loss or 0.0)
    return Candidate(
        item=antenna,
        label=antenna.name,
        name=antenna.get_type_display(),
        marks=tuple(marks),
        values={
            "gain": Value(gain, SHEET if gain is not None else ""),
            "vswr": Value(match.vswr if match else None, swept),
            "mismatch": Value(loss, swept),
            "net": Value(net, COMPUTED if match else f"{SHEET}, no sweep"),
            "size": Value(None if antenna.size_m is None else 1e3 * antenna.size_m),
            "price": Value(antenna.price),
        },
    )
