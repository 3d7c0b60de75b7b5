"""A frame on the air: how long, how often, what it draws."""

from __future__ import annotations

from inchmark.core.airtime.duty_cycle import messages_per_hour, min_interval_s
from inchmark.core.airtime.setting import RadioSetting, problems
from inchmark.core.energy import Battery, Load, Phase
from inchmark.core.wording import number
from inchmark.workbench.figures.answers import Answers, Line

DAY_H = 24.0
USABLE = 0.8  # of a battery, common practice


def air_answers(
    setting: RadioSetting,
    *,
    duty_percent: float,
    period_s: float,
    sending_a: float | None,
    sleeping_a: float | None,
    capacity_ah: float | None,
    supply_v: float,
    bank_a: float | None = None,
) -> Answers:
    """Return airtime, messages an hour, energy and battery life of a setting.

    Raises
    ------
    ValueError
        No radio can be set so, or a message outlasts its period; says which.
    """
    if wrong := problems(setting):
        raise ValueError(" ".join(wrong))
    frame = setting.airtime_s
    if frame > period_s:
        raise ValueError(
            f"A message of {frame:.3g} s does not fit into {period_s:.3g} s. Send less often."
        )
    lines = [
        Line(what="time on air", value=f"{1000 * frame:.4g} ms", formula="of the modulation’s frame", source="the standard’s frame, docs/method.md"),
        Line(what="bit rate inside the payload", value=f"{setting.rate_bit_s / 1000:.3g} kbit/s", formula="payload bits a second", source="modulation"),
        Line(what=f"messages an hour at {number(duty_percent)} %", value=f"{messages_per_hour(frame, duty_percent):,}", formula="share × 3600 s / airtime", source="duty cycle"),
        Line(what="shortest interval", value=f"{min_interval_s(frame, duty_percent):.3g} s", formula="airtime / share", source="duty cycle"),
        Line(what="share on air at this period", value=f"{100 * frame / period_s:.2g} %", formula="airtime / period", source="duty cycle"),
    ]  # fmt: skip
    if sending_a is not None:
        lines += _energy(frame, period_s, sending_a, sleeping_a or 0.0, capacity_ah, supply_v)
    return Answers(lines=lines, says=_bank(bank_a, sleeping_a, period_s, capacity_ah))


def _bank(
    bank_a: float | None, sleeping_a: float | None, period_s: float, capacity_ah: float | None
) -> list[str]:
    """Return what a power bank that switches off under a current does to a sleeping board."""
    if not bank_a:
        return []
    least = sleeping_a or 0.0
    if least >= bank_a:
        return [f"Asleep it draws {1000 * least:.3g} mA, enough to keep the bank on."]
    held = (
        f", which empties {capacity_ah:g} Ah in {capacity_ah / bank_a / DAY_H:.3g} days"
        if capacity_ah
        else ""
    )
    return [
        f"Asleep it draws {1e6 * least:.3g} µA and the bank wants {1000 * bank_a:.3g} mA: it switches off between messages, {period_s:.4g} s apart, as soon as its timer runs out (often half a minute; common practice). "
        f"Take a bank that stays on, or a load of {1000 * (bank_a - least):.3g} mA beside it{held}. A pulse now and then keeps many a bank on for less; try yours."
    ]


def _energy(
    frame_s: float,
    period_s: float,
    sending_a: float,
    sleeping_a: float,
    capacity_ah: float | None,
    supply_v: float,
) -> list[Line]:
    load = Load(
        phases=(Phase(duration_s=frame_s, current_a=sending_a),),
        period_s=period_s, sleep_current_a=sleeping_a,
    )  # fmt: skip
    lines = [
        Line(what="energy of a message", value=f"{1000 * load.active_energy_j(supply_v):.3g} mJ", formula="current × voltage × airtime; the processor’s share is not in it", source="datasheet currents"),
        Line(what="average current", value=f"{1e6 * load.average_current_a:.3g} µA", formula="over a period", source="datasheet currents"),
    ]  # fmt: skip
    if capacity_ah is not None and load.average_current_a > 0:
        battery = Battery(capacity_ah=capacity_ah, usable_share=USABLE)
        days = battery.life_h(load.average_current_a) / DAY_H
        lines.append(Line(what="battery lasts", value=f"{days / 365.25:.2g} years" if days > 730 else f"{days:.3g} days", formula="80 % of its capacity / average current", source="common practice"))  # fmt: skip
    return lines
