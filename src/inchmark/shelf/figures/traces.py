"""What a current trace means for a rig: life, and the datasheet's sum beside it."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.bench.current_trace import RECEIVE, SLEEP, TRANSMIT, WAKE, StateFigures
from inchmark.core.energy import Load, Phase
from inchmark.core.interval import Estimate
from inchmark.core.wording import number
from inchmark.shelf.adapters.parts import core_battery
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.adapters.settings import transmit_current_a
from inchmark.shelf.adapters.traces import TraceReading, reading_of
from inchmark.shelf.models import Battery, CurrentTrace, Module

HOURS_PER_YEAR = 8760.0


SHELF_LIFE_YEARS = 15.0
SAG_SHARE = 0.1  # of the supply; common practice


@dataclass(frozen=True, slots=True, kw_only=True)
class StateRow:
    """One state: measured a message, and by the datasheet."""

    state: str
    time_s: float  # a message
    current_a: float
    charge_c: float
    sheet_time_s: float | None
    sheet_current_a: float | None

    @property
    def off(self) -> bool:
        """Tell whether the measured current is a third or more above the datasheet's."""
        return bool(self.sheet_current_a and self.current_a > 1.33 * self.sheet_current_a)


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceFigures:
    """What a trace means for a rig: averages [A], life [years], the datasheet's sum beside it."""

    kept: TraceReading
    rows: list[StateRow]
    charge_c: float
    charge_half_c: float | None
    energy_j: float
    average_a: float
    life_years: Estimate | None
    sheet_average_a: float | None
    sheet_life_years: float | None
    warnings: list[str]

    @property
    def life_limits(self) -> str:
        """Return the limits of the life in words: years where they differ as shown, else per cent."""
        life = self.life_years
        if life is None or self.charge_half_c is None:
            return "one message, so nothing tells how messages differ"
        if number(life.low) != number(life.high):
            return f"95 % {number(life.low)} … {number(life.high)}"
        share = 100 * (life.high - life.low) / (2 * life.estimate)
        return f"95 % within {number(max(share, 0.1), 1)} %"

    @property
    def outlives(self) -> bool:
        """Tell whether the load alone would take longer than a cell is stored."""
        return self.life_years is not None and self.life_years.estimate > SHELF_LIFE_YEARS


def trace_figures(trace: CurrentTrace) -> TraceFigures:
    """Return what a trace means for its rig."""
    kept, rig, module = reading_of(trace), trace.rig, trace.rig.module_part
    rows = [_row(state, kept.messages, trace, module) for state in kept.states]
    load, warnings = _load(rows, trace.period_s)
    average = load.average_current_a if load else 0.0
    half = kept.charge_half_c
    battery = core_battery(rig.battery) if rig.battery else None
    life = None
    if battery and average > 0:
        spread = (half or 0.0) / trace.period_s
        ends = [
            battery.life_h(max(a, 1e-9)) / HOURS_PER_YEAR
            for a in (average, average + spread, average - spread)
        ]
        life = Estimate(*ends)
        if life.estimate > SHELF_LIFE_YEARS:
            warnings.append(
                f"Past {SHELF_LIFE_YEARS:g} years a cell's shelf life ends it, not the load (common practice)."
            )
    sheet = _sheet_load(rows, trace.period_s)
    sheet_average = sheet.average_current_a if sheet else None
    if kept.hidden_a:
        warnings.append(
            f"Parts of what counts as sleep draw {kept.hidden_a * 1e6:.3g} µA: another state hides in the meter's noise, and sleep stands too high. Record on a lower range, or with more samples a second."
        )
    warnings += _sag_warnings(kept, rig.battery)
    if rig.battery and rig.battery.keep_on_a:
        warnings += _power_bank(rows, rig.battery.keep_on_a)
    return TraceFigures(
        rows=rows,
        kept=kept,
        charge_c=kept.charge_c,
        charge_half_c=half,
        energy_j=kept.charge_c * trace.supply_v,
        average_a=average,
        life_years=life,
        sheet_average_a=sheet_average,
        sheet_life_years=(
            battery.life_h(sheet_average) / HOURS_PER_YEAR if battery and sheet_average else None
        ),
        warnings=warnings,
    )


def _row(
    state: StateFigures, messages: int, trace: CurrentTrace, module: Module | None
) -> StateRow:
    each = state.time_s / (1 if state.state == SLEEP else messages)
    sheet_time = airtime_s(trace.rig) if state.state == TRANSMIT else None
    return StateRow(
        state=state.state,
        time_s=each,
        current_a=state.current_a,
        charge_c=each * state.current_a,
        sheet_time_s=sheet_time,
        sheet_current_a=_sheet_current(state.state, trace, module),
    )


def _sheet_current(state: str, trace: CurrentTrace, module: Module | None) -> float | None:
    if module is None:
        return None
    if state == TRANSMIT:
        return transmit_current_a(module, trace.rig.power_dbm)
    return {SLEEP: module.sleep_a, WAKE: module.standby_a, RECEIVE: module.receive_a}[state]


def _load(rows: list[StateRow], period_s: float) -> tuple[Load | None, list[str]]:
    """Return the load of a message every period; a period too short for it is said."""
    active = [row for row in rows if row.state != SLEEP]
    sleep = next((row.current_a for row in rows if row.state == SLEEP), 0.0)
    phases = [Phase(duration_s=row.time_s, current_a=row.current_a) for row in active]
    if sum(phase.duration_s for phase in phases) > period_s:
        return None, [f"A message takes longer than the {period_s:g} s between two."]
    return Load(phases=phases, sleep_current_a=sleep, period_s=period_s), []


def _sheet_load(rows: list[StateRow], period_s: float) -> Load | None:
    """Return the load by the datasheet's currents and the measured times; None if one lacks."""
    active = [row for row in rows if row.state != SLEEP]
    sleep = next((row.sheet_current_a for row in rows if row.state == SLEEP), None)
    if sleep is None or any(row.sheet_current_a is None for row in active):
        return None
    phases = [
        Phase(duration_s=row.sheet_time_s or row.time_s, current_a=row.sheet_current_a or 0.0)
        for row in active
    ]
    if sum(phase.duration_s for phase in phases) > period_s:
        return None
    return Load(phases=phases, sleep_current_a=sleep, period_s=period_s)


def _sag_warnings(kept: TraceReading, battery: Battery | None) -> list[str]:
    """Return what the supply did while most was drawn, and whether it reached the cell's end."""
    if kept.usual_v is None or kept.lowest_v is None:
        return []
    cutoff = battery.cutoff_v if battery else None
    inner = f", {number(kept.inner_ohm)} Ω inside" if kept.inner_ohm else ""
    found = []
    if cutoff is not None and kept.lowest_v < cutoff:
        found.append(
            f"The supply sags from {number(kept.usual_v, 2)} to {number(kept.lowest_v, 2)} V while sending{inner}, under the {number(cutoff, 2)} V at which {battery} counts as empty: it ends before its charge does. Add a capacitor, or take a cell that gives more."
        )
    elif kept.usual_v - kept.lowest_v > SAG_SHARE * kept.usual_v:
        found.append(
            f"The supply sags from {number(kept.usual_v, 2)} to {number(kept.lowest_v, 2)} V while sending{inner}. A cold or an old cell sags more."
        )
    return found


def _power_bank(rows: list[StateRow], keep_on_a: float) -> list[str]:
    quiet = [row for row in rows if row.current_a < keep_on_a]
    if not quiet:
        return []
    least = min(row.current_a for row in quiet)
    return [
        f"The power bank switches off under {number(1e3 * keep_on_a, 0)} mA, and the rig draws {least * 1e6:.3g} µA in {quiet[0].state}. Take a bank that stays on, or add a load."
    ]
