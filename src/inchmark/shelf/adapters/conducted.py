"""Conducted ladders as the core weighs them, and what they were measured with."""

from __future__ import annotations

from inchmark.core.bench.conducted import Step
from inchmark.shelf.models import ConductedCheck, Rig


def core_steps(check: ConductedCheck) -> list[Step]:
    """Return the steps with their level at the receiver [dBm]."""
    at_source = check.source_dbm - check.fixed_loss_db
    return [Step(level_dbm=at_source - a, sent=int(n), heard=int(k)) for a, n, k in check.steps]


def measured_with(rig: Rig) -> str:
    """Return module and setting in words, as far as a receiver's sensitivity hangs on them."""
    coding = f", 4/{rig.coding_rate}" if rig.modulation == Rig.CHIRP else ""
    spread = f", ±{rig.deviation_hz / 1e3:g} kHz" if rig.deviation_hz else ""
    bandwidth = f"{rig.bandwidth_hz / 1e3:.6g} kHz"
    return f"{rig.module}, {rig.setting}, {bandwidth}{coding}{spread}"
