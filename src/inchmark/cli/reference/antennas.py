"""Check tables of antennas: match, polarisation and lengths, sweep files, reference impedances."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np

from inchmark.cli.reference.rows import Row, Values, number
from inchmark.core.antenna.lengths import far_field_distance_m, wire_length_m
from inchmark.core.antenna.match import REFERENCE_OHM, Match
from inchmark.core.antenna.polarisation import polarisation_loss_db
from inchmark.formats.touchstone import read_touchstone, renormalised


def matched(row: Row) -> Values:
    """Return a match from an impedance or from one of its figures."""
    given = row["given_quantity"]
    if given == "impedance":
        load = complex(number(row, "load_resistance_ohm"), number(row, "load_reactance_ohm"))
        match = Match.from_impedance(load, reference_ohm=number(row, "reference_ohm"))
    else:
        makers = {
            "vswr": Match.from_vswr,
            "return_loss_db": Match.from_return_loss_db,
            "mismatch_loss_db": Match.from_mismatch_loss_db,
            "reflection_magnitude": Match,
        }
        match = makers[given](number(row, "given_value"))
    return {
        "reflection_magnitude": match.reflection_magnitude,
        "vswr": match.vswr,
        "return_loss_db": match.return_loss_db,
        "mismatch_loss_db": match.mismatch_loss_db,
        "reflected_power_percent": match.reflected_power_percent,
    }


def polarisation(row: Row) -> Values:
    """Return a polarisation loss, a far-field distance or a wire's length."""
    quantity = row["quantity"]
    if quantity == "polarisation_loss_db":
        loss = polarisation_loss_db(
            row["polarisation_a"],
            row["polarisation_b"],
            angle_deg=float(row["angle_deg"] or 0),
            cap_db=number(row, "cap_db"),
        )
        return {"value": loss}
    frequency = number(row, "frequency_mhz") * 1e6
    if quantity == "far_field_distance_m":
        return {"value": far_field_distance_m(number(row, "largest_dimension_m"), frequency)}
    wave = quantity.removesuffix("_wave_m")
    factor = float(row["velocity_factor"] or 1)
    return {"value": wire_length_m(frequency, wave=wave, velocity_factor=factor)}


def touchstone(folder: Path) -> Callable[[Row], Values]:
    """Return what a sweep file says of a band."""

    def compute(row: Row) -> Values:
        sweep = read_touchstone((folder / row["file"]).read_bytes()).sweep
        low, high = number(row, "band_low_mhz") * 1e6, number(row, "band_high_mhz") * 1e6
        values = {
            "points": float(len(sweep.frequency_hz)),
            "start_mhz": sweep.frequency_hz[0] / 1e6,
            "stop_mhz": sweep.frequency_hz[-1] / 1e6,
            "min_vswr_frequency_mhz": sweep.frequency_hz[sweep.best] / 1e6,
            "min_vswr": sweep.vswr[sweep.best],
            "vswr_band_low": sweep.match_at(low).vswr,
            "vswr_band_centre": sweep.match_at((low + high) / 2).vswr,
            "vswr_band_high": sweep.match_at(high).vswr,
            "worst_vswr_in_band": sweep.worst_vswr(low, high),
            "mismatch_loss_band_high_db": sweep.match_at(high).mismatch_loss_db,
            "rl10_bandwidth_mhz": 0.0,
        }
        matched = sweep.matched_range_hz(10.0)
        if matched:
            start, stop = (edge / 1e6 for edge in matched)
            values |= {
                "rl10_low_mhz": start,
                "rl10_high_mhz": stop,
                "rl10_bandwidth_mhz": stop - start,
            }
        return {name: float(value) for name, value in values.items()}

    return compute


def renormalise(folder: Path) -> Callable[[Row], Values]:
    """Return reflections brought to 50 ohm: typed ones, and a port of a file at a frequency."""

    def compute(row: Row) -> Values:
        values: Values = {}
        if row["file"]:
            found = read_touchstone((folder / row["file"]).read_bytes(), port=int(row["port"]))
            reference, sweep = found.reference_ohm, found.sweep
            at = complex(sweep.at(number(row, "frequency_mhz") * 1e6))
            values |= {
                "points": float(len(sweep.frequency_hz)),
                "min_vswr_50": float(sweep.vswr[sweep.best]),
                "min_vswr_50_frequency_mhz": float(sweep.frequency_hz[sweep.best]) / 1e6,
            }
            in_file = renormalised(np.array([at]), REFERENCE_OHM, reference)[0]
        else:
            angle = np.radians(number(row, "given_reflection_angle_deg"))
            in_file = number(row, "given_reflection_magnitude") * np.exp(1j * angle)
            reference = number(row, "given_reference_ohm")
            at = complex(renormalised(np.array([in_file]), reference)[0])
        match, load = Match(abs(at)), REFERENCE_OHM * (1 + at) / (1 - at)
        return values | {
            "reference_ohm": reference,
            "vswr_in_file_reference": Match(abs(in_file)).vswr,
            "reflection_real_50": at.real,
            "reflection_imag_50": at.imag,
            "vswr_50": match.vswr,
            "return_loss_50_db": match.return_loss_db,
            "mismatch_loss_50_db": match.mismatch_loss_db,
            "resistance_ohm": load.real,
            "reactance_ohm": load.imag,
        }

    return compute
